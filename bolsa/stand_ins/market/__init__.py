"""The market stand-in: daily rates and value indexes as CSV over HTTP, drawn from a seed.

Start it with `python -m bolsa.stand_ins.market [--port N]`; it prints its address. Read state.py first.
"""
