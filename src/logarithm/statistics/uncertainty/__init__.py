"""How sure everything is: one model of errors, which all comparisons ask.

The logarithm of a cost, or of a ratio of two costs in the same heat, is

    law + drift over sizes + process + place + heat and trial

`level` estimates it at each size, with errors; `paths` draws curves that agree with it.
"""
