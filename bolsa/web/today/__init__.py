"""The pages under today; see views.py."""

from bolsa.web.today.views import blueprint

__all__ = ["blueprint"]
