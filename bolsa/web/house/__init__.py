"""House: members, categories, journal, trash, health, taking everything out. Begin with views.py."""

from bolsa.web.area import Action, Area, Page
from bolsa.web.house import categories, views  # noqa: F401 (they enter their pages)
from bolsa.web.house.blueprint import blueprint

AREA = Area(
    blueprint,
    page=Page("house.rooms", "House", "o"),
    actions=(
        Action("house.categories", "Arrange the categories"),
        Action("house.category_lines", "Write many categories at once"),
        Action("house.tags", "Look through the tags"),
        Action("house.household", "Change the household: name, members, zone"),
        Action("house.reading", "Choose how numbers and days are written"),
        Action("house.health", "Check the health of the file"),
        Action("house.export", "Save everything as CSV and JSON"),
        Action("house.backup", "Make a backup"),
        Action("house.rooms", "Look into the journal and the trash"),
    ),
    samples=(
        "/house",
        "/house/categories",
        "/house/categories/7",
        "/house/categories/lines",
        "/house/tags",
        "/house/health",
        "/house/reading",
        "/house/household",
    ),
)
