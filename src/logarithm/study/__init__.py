"""What is asked: the study with its contenders, families and claims, from Python or TOML."""
