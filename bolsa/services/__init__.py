"""One function for each thing a person can do, and the figures each page asks for.

Here: the transaction, the journal step, and the order of reading, computing and writing.
Not here: SQL (store), rules (core), forms and pages (web). Every change takes `by`, which says who and when.

Read entries.py first, then bringing_in.py and budgeting.py.
"""
