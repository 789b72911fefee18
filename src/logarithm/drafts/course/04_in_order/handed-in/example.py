"""An example of what is handed in; take it out when the first real one comes."""


def two_logs(logs):
    one, other = [list(log) for log in logs]
    made = []
    while one or other:
        shallow = one if one and (not other or one[0] <= other[0]) else other
        made.append(shallow.pop(0))
    return made
