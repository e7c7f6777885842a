"""Batches and the rows they brought, lines merged with them, connections. Begin with brought.py."""
