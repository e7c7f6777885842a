"""The blueprint the modules of this area share."""

from flask import Blueprint

blueprint = Blueprint("ahead", __name__, template_folder="templates")
