"""Answers to questions about income and spending. Begin with answers.py."""
