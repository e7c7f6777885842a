"""Years ahead: debts paid off together. Begin with debts.py."""
