"""Bolsa keeps a household's money in order: entries, checks, a budget and net worth in one SQLite file.

The rooms, from the inside out (an arrow of import never turns back):

core       rules and computation on plain values; knows no database, no web, no clock
store      SQLite: connection, migrations, one module of plain SQL per aggregate
formats    readers of open file formats (OFX, CSV); beside store
services   one function per thing a person can do; opens the transaction
stand_ins  simulated outside services that ship with Bolsa
demo       the seeded scenario of the Port Halden household
web        Flask pages: a folder per page, views that only ask and show
cli        the same services from the command line

Begin with core/entries.py, then store/migrations/0001_ledger.sql, then services/entries.py.
"""

__version__ = "0.1.0"
