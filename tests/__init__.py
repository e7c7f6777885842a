"""The tests: the same folders as bolsa/, checks/ for the project's own rules, stories/ for the browser.

`make test` runs all of them (run.py); `python -m unittest discover -s tests/core -t .` runs one folder.
"""

from hypothesis import settings

settings.register_profile("bolsa", max_examples=50, deadline=None, derandomize=True)
settings.load_profile("bolsa")
