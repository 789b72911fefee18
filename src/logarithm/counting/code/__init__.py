"""A contender's code as it is while it is counted: rewritten, with what stands in the place of built-ins."""
