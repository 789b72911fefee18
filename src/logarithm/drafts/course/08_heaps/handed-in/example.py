"""An example of what is handed in; take it out when the first real one comes."""


def is_heap(times):
    def below(at):
        if at >= len(times):
            return True
        return all(
            child >= len(times) or (times[at] <= times[child] and below(child)) for child in (2 * at + 1, 2 * at + 2)
        )

    return below(0)
