"""Net worth by day and month. Begin with worth.py."""
