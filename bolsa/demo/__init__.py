"""The Port Halden household: three years and five months of plausible, untidy history, the same from the same seed.

people.py says who they are and what they pay; months.py lets the days happen; build.py writes them into a file through the
services, and the bank's side of it into a scenario for the stand-in. Read people.py first.
"""
