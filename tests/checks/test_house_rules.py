"""The project's own rules: lint, direction of imports, current styles, no word of a registry, sizes of tests and pictures."""

import ast
import doctest
import importlib
import re
import subprocess
import sys
import tomllib
import types
import unittest
from pathlib import Path

from bolsa.web.areas import AREAS
from tests.checks import styles

ROOT = Path(__file__).parents[2]
BIN = Path(sys.executable).parent

# How the store itself works: none of these leaves it for a page.
STORE_TYPES = {"Asked", "Grouped", "Household", "Place", "RepeatedLine", "Table"}
# What needs no database in services and is no rule: it asks the network, reads files and pictures, or puts rows into words.
NOT_RULES = {
    "_download", "ofx_request", "restore", "send_over_http", "look_at", "_picture_of", "picture_of", "check_url", "_ask",
    "bring_whole", "_read_whole", "_line_words", "_record",
    "_total_in_home", "_check_out", "_opened", "_keep_former", "call", "main",
}  # fmt: skip


def run(*command: str) -> subprocess.CompletedProcess:
    return subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=False)


class HouseRules(unittest.TestCase):
    def test_ruff_finds_nothing(self):
        for arguments in (("check", "."), ("format", "--check", ".")):
            done = run(str(BIN / "ruff"), *arguments)
            self.assertEqual(done.returncode, 0, done.stdout + done.stderr)

    def test_no_arrow_of_import_turns_back(self):
        done = run(str(BIN / "lint-imports"))
        self.assertEqual(done.returncode, 0, done.stdout + done.stderr)

    def test_the_core_is_typed(self):
        done = run(str(BIN / "mypy"), "bolsa")
        self.assertEqual(done.returncode, 0, done.stdout + done.stderr)

    def test_the_package_declares_what_it_imports(self):
        names = {"PIL": "pillow", "flask_wtf": "flask-wtf", "dateutil": "python-dateutil", "stdnum": "python-stdnum"}
        imported = set()
        for path in (ROOT / "bolsa").rglob("*.py"):
            for node in ast.walk(ast.parse(path.read_text())):
                found = [a.name for a in node.names] if isinstance(node, ast.Import) else []
                found += [node.module or ""] if isinstance(node, ast.ImportFrom) and not node.level else []
                imported |= {name.partition(".")[0] for name in found}
        third = {names.get(n, n) for n in imported - set(sys.stdlib_module_names) - {"bolsa", ""}}
        declared = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]["dependencies"]
        self.assertEqual(third, set(declared))

    def test_every_part_is_listed_with_its_licence(self):
        pinned = re.findall(r"^([a-z0-9-]+)==", (ROOT / "requirements" / "run.txt").read_text(), re.MULTILINE)
        listed = (ROOT / "docs" / "dependencies.md").read_text().split("Shipped with the pages")[0]
        named = {name.strip() for row in re.findall(r"^\| ([a-z][^|]*) \|", listed, re.MULTILINE) for name in row.split(",")}
        self.assertEqual(named - {"package"}, set(pinned))

    def test_only_the_door_opens_a_transaction(self):
        doors = {"services/changes.py", "store/connection.py", "store/migrate.py", "store/house/copying.py"}
        for path in (ROOT / "bolsa").rglob("*.py"):
            if path.relative_to(ROOT / "bolsa").as_posix() not in doors:
                self.assertNotIn("atomic(", path.read_text(), path)

    def test_every_page_has_a_letter_of_its_own(self):
        letters = [area.page.letter for area in AREAS if area.page]
        self.assertEqual(len(set(letters)), len(letters), letters)

    def test_a_module_stays_readable(self):
        for path in (ROOT / "bolsa").rglob("*.py"):
            lines = path.read_text().splitlines()
            self.assertLessEqual(len(lines), 400, path)
            for node in ast.walk(ast.parse("\n".join(lines))):
                if isinstance(node, ast.FunctionDef):
                    self.assertLessEqual(node.end_lineno - node.lineno + 1, 60, f"{path}: {node.name}")

    def test_the_stylesheet_is_current(self):
        written = styles.DIGEST.read_text().strip()
        self.assertEqual(written, styles.digest_of_inputs(), "run `make styles` after changing templates or styles")

    def test_the_core_needs_no_flask(self):
        code = "import sys; sys.modules['flask'] = None; sys.modules['sqlite3'] = None; import pkgutil, importlib, bolsa.core\n"
        code += "for m in pkgutil.walk_packages(bolsa.core.__path__, 'bolsa.core.'): importlib.import_module(m.name)"
        done = run(sys.executable, "-c", code)
        self.assertEqual(done.returncode, 0, done.stderr)

    def test_what_is_asked_of_a_module_is_in_it(self):
        for path in sorted((ROOT / "bolsa").rglob("*.py")):
            if path.stem == "__main__":
                continue
            name = ".".join(path.relative_to(ROOT).with_suffix("").parts).removesuffix(".__init__")
            module = importlib.import_module(name)
            for node in ast.walk(ast.parse(path.read_text())):
                if isinstance(node, ast.Attribute) and isinstance(node.value, ast.Name):
                    owner = getattr(module, node.value.id, None)
                    there = not isinstance(owner, types.ModuleType) or hasattr(owner, node.attr)
                    self.assertTrue(there, f"{path}:{node.lineno} asks for {node.value.id}.{node.attr}")

    def test_every_example_in_a_docstring_is_true(self):
        for path in sorted((ROOT / "bolsa").rglob("*.py")):
            if ">>> " in path.read_text():
                name = ".".join(path.relative_to(ROOT).with_suffix("").parts).removesuffix(".__init__")
                self.assertEqual(doctest.testmod(importlib.import_module(name)).failed, 0, name)

    def test_every_room_has_a_sign_on_its_door(self):
        for door in sorted((ROOT / "bolsa").rglob("__init__.py")):
            self.assertTrue(door.read_text().startswith('"""'), f"{door} says nothing")

    def test_every_setting_and_command_is_in_the_readme(self):
        from bolsa import cli, settings

        readme = (ROOT / "README.md").read_text()
        for one in settings.SETTINGS:
            self.assertIn(f"BOLSA_{one.name.upper()}", readme)
        commands = next(a for a in cli.parser()._actions if a.dest == "command").choices
        for name in commands:
            self.assertIn(f"bolsa {name}", readme)

    def test_every_table_head_says_what_it_heads(self):
        for page in (ROOT / "bolsa" / "web").rglob("*.html"):
            for head in re.findall(r"<th[\s>][^>]*>?", page.read_text()):
                self.assertIn("scope=", head, page)

    def test_every_table_says_what_it_holds(self):
        for page in (ROOT / "bolsa" / "web").rglob("*.html"):
            if page.name != "tables.html":
                for table in re.findall(r"<table[\s>].{200}", page.read_text(), re.DOTALL):
                    self.assertIn("<caption", table, page)

    def test_a_template_stays_readable_and_sums_nothing(self):
        for page in (ROOT / "bolsa" / "web").rglob("*.html"):
            for number, line in enumerate(page.read_text().splitlines(), 1):
                self.assertLessEqual(len(line), 160, f"{page}:{number}")
                self.assertNotRegex(line, r"\|\s*sum\b", f"{page}:{number}")

    def test_no_rule_that_is_pure_lives_in_services(self):
        for path in sorted((ROOT / "bolsa" / "services").rglob("*.py")):
            for node in ast.parse(path.read_text()).body:
                if isinstance(node, ast.FunctionDef) and node.name not in NOT_RULES:
                    names = {argument.arg for argument in node.args.args}
                    is_long = node.end_lineno - node.lineno >= 12
                    self.assertTrue("db" in names or not is_long, f"{path}: {node.name} belongs in the core")

    def test_what_a_page_shows_is_of_the_core_or_of_services(self):
        """The store gives core values: a type of its own, or a row, would bind a template to how things are kept."""
        for path in sorted((ROOT / "bolsa" / "store").rglob("*.py")):
            found = {node.name for node in ast.parse(path.read_text()).body if isinstance(node, ast.ClassDef)}
            self.assertLessEqual(found, STORE_TYPES, path)
        for path in sorted((ROOT / "bolsa" / "services").rglob("*.py")):
            for node in ast.parse(path.read_text()).body:
                if isinstance(node, ast.FunctionDef) and not node.name.startswith("_") and node.returns:
                    self.assertNotIn("sqlite3.Row", ast.unparse(node.returns), f"{path}: {node.name}")

    def test_every_module_of_the_core_has_its_own_tests(self):
        for path in sorted((ROOT / "bolsa" / "core").rglob("*.py")):
            does_something = any(isinstance(node, ast.FunctionDef) for node in ast.walk(ast.parse(path.read_text())))
            if path.name != "__init__.py" and does_something:
                tested = ROOT / "tests" / path.relative_to(ROOT / "bolsa").with_name(f"test_{path.name}")
                self.assertTrue(tested.exists(), f"{path} has no {tested.name}")

    def test_no_template_holds_inline_script_or_style(self):
        for page in (ROOT / "bolsa" / "web").rglob("*.html"):
            text = page.read_text()
            for forbidden in (" style=", "<style", " onclick=", " hx-on", "javascript:", "<script>"):
                self.assertNotIn(forbidden, text, page)


if __name__ == "__main__":
    unittest.main()
