"""Recording, changing, finding and listing entries. Begin with entries.py."""
