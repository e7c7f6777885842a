"""Expected amounts, placings, and the totals the budget reads. Begin with budget.py."""
