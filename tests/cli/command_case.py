"""A household of its own for each test, and the command line on it."""

import contextlib
import io
import json
import tempfile
import unittest
from pathlib import Path

from bolsa import cli


class CommandCase(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "a.bolsa"
        self.ok("init", "--day", "2026-05-14", "--member", "Ana")
        self.ok("account", "add", "Current", "--kind", "current", "--opening", "1000", "--on", "2026-01-01")

    def run_(self, *arguments):
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            code = cli.main([*arguments, "--data", str(self.path)])
        return code, out.getvalue(), err.getvalue()

    def ok(self, *arguments):
        code, out, err = self.run_(*arguments)
        self.assertEqual((code, err), (0, ""), arguments)
        return out

    def json(self, *arguments):
        return json.loads(self.ok(*arguments, "--json"))
