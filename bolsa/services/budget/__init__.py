"""The month's budget, placing and shifting. Begin with budgeting.py."""
