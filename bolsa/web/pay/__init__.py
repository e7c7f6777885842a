"""Pay: each payday confirmed against its payslip, the year so far, ceilings. views.py is the payslip, pay_form.py the lines."""

from bolsa.services.pay.workings import WORKINGS
from bolsa.web.area import Action, Area
from bolsa.web.pay import pay_form, views
from bolsa.web.pay.blueprint import blueprint

__all__ = ["AREA", "pay_form", "views"]

AREA = Area(
    blueprint,
    under="due",
    actions=(Action("pay.index", "Confirm a payday"),),
    workings=WORKINGS,
    samples=("/pay/1", "/pay/1?day=2026-04-10", "/pay/1/lines", "/pay/new"),
)
