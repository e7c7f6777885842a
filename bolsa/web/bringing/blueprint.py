"""The blueprint the modules of this area share."""

from flask import Blueprint

blueprint = Blueprint("bringing", __name__, template_folder="templates")
