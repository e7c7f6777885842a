"""Find: everything by a few letters, as one types."""

from bolsa.web.find.views import blueprint

__all__ = ["blueprint"]
