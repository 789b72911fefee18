"""An example of what is handed in; take it out when the first real one comes."""


def first_seen_twice(signs):
    for at, sign in enumerate(signs):
        if sign in signs[:at]:
            return sign
    return -1
