"""What pip installs is whole: a wheel in an environment that has nothing of this folder makes a household and serves it."""

import functools
import json
import os
import subprocess
import sys
import sysconfig
import tempfile
import time
import unittest
import urllib.request
import venv
import zipfile
from pathlib import Path

ROOT = Path(__file__).parent.parent.parent
NOT_INSTALLED = {"bolsa/web/styles/bolsa.css", "bolsa/web/styles/inputs.sha256"}  # what the stylesheet is built from
PATIENCE = 30  # seconds


class Installed(unittest.TestCase):
    def setUp(self):
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.empty = self.folder / "empty"
        self.empty.mkdir()
        build = [sys.executable, "-m", "pip", "wheel", "--quiet", "--no-deps", "-w", str(self.folder), str(self.copied())]
        subprocess.run(build, check=True, capture_output=True, cwd=self.empty)
        (self.wheel,) = self.folder.glob("bolsa-*.whl")

    def copied(self):
        """The files git knows, away from what an earlier build left beside them."""
        source = self.folder / "source"
        for name in subprocess.run(["git", "ls-files"], check=True, capture_output=True, text=True, cwd=ROOT).stdout.split("\n"):
            if name.startswith("bolsa/") or name in ("pyproject.toml", "README.md"):
                (source / name).parent.mkdir(parents=True, exist_ok=True)
                (source / name).write_bytes((ROOT / name).read_bytes())
        return source

    def test_nothing_is_left_behind_and_a_household_is_made_and_served(self):
        held = set(zipfile.ZipFile(self.wheel).namelist())
        here = {
            str(path.relative_to(self.folder / "source"))
            for path in (self.folder / "source" / "bolsa").rglob("*")
            if path.is_file()
        }
        self.assertEqual(here - held - NOT_INSTALLED, set())
        venv.create(self.folder / "env", with_pip=False)
        packages = self.folder / "env" / "lib" / f"python{sys.version_info[0]}.{sys.version_info[1]}" / "site-packages"
        (packages / "needed.pth").write_text(sysconfig.get_path("purelib") + "\n")  # what requirements/run.txt names
        install = [sys.executable, "-m", "pip", "install", "--quiet", "--no-deps", "--target", str(packages), str(self.wheel)]
        subprocess.run(install, check=True, capture_output=True, cwd=self.empty)
        bolsa = [str(self.folder / "env" / "bin" / "python"), "-m", "bolsa"]
        clean = {"PATH": os.environ["PATH"], "HOME": str(self.empty), "BOLSA_DATA": str(self.empty / "a.bolsa")}
        run = functools.partial(subprocess.run, check=False, capture_output=True, text=True, cwd=self.empty, env=clean)
        made = run([*bolsa, "init", "--name", "Quay", "--member", "Ana"])
        self.assertEqual(made.returncode, 0, made.stderr)
        checked = run([*bolsa, "check", "--json"])
        self.assertEqual(checked.returncode, 0, checked.stdout + checked.stderr)
        json.loads(checked.stdout)
        served = subprocess.Popen([*bolsa, "serve", "--port", "0"], stdout=subprocess.PIPE, text=True, cwd=self.empty, env=clean)
        self.addCleanup(served.stdout.close)
        self.addCleanup(served.wait)
        self.addCleanup(served.terminate)
        address = next(word for word in served.stdout.readline().split() if word.startswith("http"))
        self.assertIn("Bolsa", self.page(address))

    def page(self, address):
        until = time.monotonic() + PATIENCE
        while True:
            try:
                with urllib.request.urlopen(address) as reply:
                    return reply.read().decode()
            except OSError:
                if time.monotonic() > until:
                    raise
                time.sleep(0.2)


if __name__ == "__main__":
    unittest.main()
