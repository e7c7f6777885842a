"""The pages under welcome; see views.py."""

from bolsa.web.welcome.views import blueprint

__all__ = ["blueprint"]
