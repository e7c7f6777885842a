"""The blueprint the modules of this area share."""

from flask import Blueprint

blueprint = Blueprint("accounts", __name__, template_folder="templates")
