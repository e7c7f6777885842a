"""What is kept of plans for years ahead. Begin with debts.py."""
