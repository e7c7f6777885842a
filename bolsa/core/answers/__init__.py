"""Answers: cuts through income and spending, and what follows from their parts. Begin with cut.py."""
