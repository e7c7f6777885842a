"""The sitting and its five steps. Begin with sittings.py."""
