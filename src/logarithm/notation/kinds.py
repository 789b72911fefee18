"""Kinds of work: what known operations do inside one step, in words, and what a unit of each typically costs."""

from __future__ import annotations

STEPS = "steps"
COMPARED, PARTED, HASHED = "items compared", "items compared part by part", "keys hashed"
TOUCHED, COPIED, MOVED = "items gone through", "items copied", "items moved"
SIGNS, SEARCHED, DIGITS = "characters written", "characters searched", "digits multiplied"
ELEMENTS, ASKED, CALLS = "elements computed", "elements compared", "array calls"

PRICES: dict[str, float] = {
    STEPS: 1.0,
    COMPARED: 1.2,
    PARTED: 8.0,
    HASHED: 2.5,
    TOUCHED: 0.5,
    COPIED: 0.1,
    MOVED: 0.03,
    SIGNS: 0.01,
    SEARCHED: 0.05,
    DIGITS: 0.1,
    ELEMENTS: 0.07,
    ASKED: 0.25,
    CALLS: 70.0,
}
"""Steps that a unit of each kind typically costs: two items compared, two that have parts, a key hashed and found, an
item gone through, a reference copied, one moved by its neighbours, a character of a text written, one searched, two
digits multiplied, an element of an array computed, two of them compared, and a call of an array function before it
begins."""
