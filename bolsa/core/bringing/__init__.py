"""What files and connections bring, and what each row is against what is here. Begin with rows.py, then matching.py."""
