"""The blueprint the modules of this area share."""

from flask import Blueprint

blueprint = Blueprint("checking", __name__, template_folder="templates")
