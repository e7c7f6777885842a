"""The pages under budget; see views.py."""

from bolsa.web.budget.views import blueprint

__all__ = ["blueprint"]
