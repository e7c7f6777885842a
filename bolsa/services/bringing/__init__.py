"""From a file or a bank to entries: read, staged, judged, previewed, brought in. Begin with bringing_in.py."""
