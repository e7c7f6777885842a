"""The pages under house; see views.py."""

from bolsa.web.house.views import blueprint

__all__ = ["blueprint"]
