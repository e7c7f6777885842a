"""What comes again and again, and what is due from it. Begin with series.py."""
