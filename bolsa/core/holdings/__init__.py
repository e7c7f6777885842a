"""Shares: positions, and what may explain that they differ. Begin with shares.py."""
