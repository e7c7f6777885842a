"""Whether one booking told by several sources stays one: households with known truth, brought in through files of six layouts.

`truth.py` lives three months of one account, `layouts.py` writes files of it as banks do, `running.py` brings them in, with
typed and announced entries between, and counts what stands twice or is lost. None of it uses Bolsa's own rules for telling
bookings apart.
"""
