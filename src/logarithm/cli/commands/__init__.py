"""The commands, by what they do: run, read, assess, walk."""
