"""The blueprint the pages of the budget share."""

from flask import Blueprint

blueprint = Blueprint("budget", __name__, template_folder="templates")
