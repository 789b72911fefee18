"""Reports: findings rendered for people. Nothing here computes what is found."""
