"""The pages: Flask, Jinja, htmx. A folder per page with its views and templates; what they share lives here.

A view parses its form (forms.py), asks one service, and picks a page. Templates format by filters (filters.py) and compute no
sums. Every page works without script; scripts make it quick.
Not here: SQL and rules.

Read app.py first, then books/register.py.
"""
