"""Everything that is concluded, as small typed values: each with a table, a JSON form, and a way to show itself."""
