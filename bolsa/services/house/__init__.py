"""The household's file, its making, copies and exports; who sits here. Begin with households.py."""
