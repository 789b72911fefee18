"""An example of what is handed in; take it out when the first real one comes."""

from functools import lru_cache


@lru_cache(None)
def ways_to_load(tonnes):
    if tonnes < 3:
        return 1
    return (ways_to_load(tonnes - 1) + ways_to_load(tonnes - 3)) % 1_000_003
