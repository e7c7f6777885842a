"""The pages under working; see views.py."""

from bolsa.web.working.views import blueprint

__all__ = ["blueprint"]
