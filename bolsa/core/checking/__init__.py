"""A statement against the books, and what may explain a difference. Begin with check.py."""
