"""Years ahead: debts and when they are done. Begin with debts.py."""
