"""Series found from history. Begin with series.py."""
