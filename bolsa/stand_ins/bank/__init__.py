"""The bank stand-in: a separate local HTTP service with made-up institutions.

Start it with `python -m bolsa.stand_ins.bank --scenario FILE [--port N]`; it prints its address. Read state.py first.
"""
