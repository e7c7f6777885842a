"""One function for each thing a person can do, and the figures each page asks for. A folder an area.

Here: the transaction, the journal step, and the order of reading, computing and writing.
Not here: SQL (store), rules (core), forms and pages (web). Every change takes `by`, which says who and when, goes through the one
door in changes.py, and gives back a `Done`: step, sentence, what was made.

Read changes.py first, then ledger/entries.py, bringing/bringing_in.py and budget/budgeting.py.
"""
