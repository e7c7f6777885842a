"""SQLite: the connection, the migrations, the journal, and one module of plain SQL per aggregate.

Here: every SQL statement of Bolsa, as an UPPER_CASE constant above the one function that runs it.
Not here: rules (core), transactions that mean something to a person (services).
`find_` gives one or None, `get_` one or NotFound, `list_` many, `insert_`, `change_` and `remove_` write.

Read migrations/0001_ledger.sql first, then connection.py and entries.py.
"""
