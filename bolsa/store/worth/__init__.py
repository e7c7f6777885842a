"""What lines brought to accounts. Begin with flows.py."""
