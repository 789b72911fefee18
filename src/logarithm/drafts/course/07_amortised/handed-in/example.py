"""An example of what is handed in; take it out when the first real one comes."""


def moves(entries):
    room, copied = 1, 0
    for many in range(entries):
        if many == room:
            copied, room = copied + room, 2 * room
    return copied
