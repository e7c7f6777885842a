"""The pages under sort; see views.py."""

from bolsa.web.sort.views import blueprint

__all__ = ["blueprint"]
