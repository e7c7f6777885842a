"""Net worth out of balances and rates. Begin with net_worth.py."""
