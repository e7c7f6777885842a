"""The rules and the computation, on plain frozen values.

Here: money, months, entries, matching, suggestions, budget, checking, worth, series.
Not here: SQL, HTTP, files, the clock. What a function needs to know is passed in, and what it finds out
is returned together with the parts it is made of, so that every page can open its working.
Amounts are whole minor units (`_minor`); positive is money to the household.

Read `entries.py` first, then `budget.py`.
"""
