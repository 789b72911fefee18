"""An example of what is handed in; take it out when the first real one comes."""


def first_not_below(asked):
    numbers, wanted = asked
    return sum(number < wanted for number in numbers)
