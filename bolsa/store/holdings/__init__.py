"""Securities, moves of shares, declared positions. Begin with shares.py."""
