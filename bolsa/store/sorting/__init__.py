"""Categories and groups, what waits to be sorted and how the past was. Begin with categories.py."""
