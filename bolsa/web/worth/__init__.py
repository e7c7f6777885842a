"""The pages under worth; see views.py."""

from bolsa.web.worth.views import blueprint

__all__ = ["blueprint"]
