"""What repeats in the books. Begin with repeating.py."""
