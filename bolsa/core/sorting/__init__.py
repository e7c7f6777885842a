"""Suggestions learned from the household's own decisions, and transfers found in pairs. Begin with suggestions.py."""
