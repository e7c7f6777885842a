"""The household itself. Begin with kept.py."""
