"""Where in the log of a foghorn does a signal begin? By trying each place, and by what the signal says of itself."""

from logarithm import Study, families

study = Study("signals", question="Where does the signal begin in the log, if it is there?", sizes="16..4096 *2")
study.family(families.pattern_and_text)


@study.family
def nearly_everywhere(n, rng):
    """A log of one sound, and a signal that differs in its last."""
    return "a" * (n // 2) + "b", "a" * n


@study.contender(claim={"nearly_everywhere": "n^2"}, baseline=True)
def try_each_place(asked):
    """At each place, sound by sound."""
    signal, log = asked
    for at in range(len(log) - len(signal) + 1):
        for far in range(len(signal)):
            if log[at + far] != signal[far]:
                break
        else:
            return at
    return -1


@study.contender(claim="n")
def by_its_borders(asked):
    """Never go back in the log: the signal tells how far it may be moved."""
    signal, log = asked
    borders, far = [0] * len(signal), 0
    for at in range(1, len(signal)):
        while far and signal[at] != signal[far]:
            far = borders[far - 1]
        far += signal[at] == signal[far]
        borders[at] = far
    far = 0
    for at, sound in enumerate(log):
        while far and sound != signal[far]:
            far = borders[far - 1]
        far += bool(signal) and sound == signal[far]
        if far == len(signal):
            return at - far + 1
    return -1 if signal else 0
