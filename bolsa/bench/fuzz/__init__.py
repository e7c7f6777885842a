"""Hostile requests: what is sent (values.py), the forms a browser would send (forms.py), a walk over all (walking.py)."""
