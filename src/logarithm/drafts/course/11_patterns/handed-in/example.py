"""An example of what is handed in; take it out when the first real one comes."""


def shared_sounds(logs):
    one, other = logs
    table = [[0] * (len(other) + 1) for _ in range(len(one) + 1)]
    for i, sound in enumerate(one):
        for j, heard in enumerate(other):
            table[i + 1][j + 1] = table[i][j] + 1 if sound == heard else max(table[i][j + 1], table[i + 1][j])
    return table[-1][-1]
