"""The household itself, its members and settings, and what is exported. Begin with household.py."""
