"""The budget's one arithmetic, and placing money by it. Begin with month.py."""
