"""Runs everything in two processes, the stories beside the rest, and ends with a line that counts it."""

import concurrent.futures
import io
import sys
import unittest
from pathlib import Path

ROOT = Path(__file__).parent.parent
FOLDERS = ("stories", "services", "web", "checks", "core", "store", "formats")  # the slow ones are begun first


def run_module(path: str) -> tuple[int, int, int, str]:
    """Runs one module of tests; gives how many passed, failed and were skipped, and what was said."""
    said = io.StringIO()
    name = ".".join(Path(path).relative_to(ROOT).with_suffix("").parts)
    suite = unittest.TestLoader().loadTestsFromName(name)
    result = unittest.TextTestRunner(stream=said, verbosity=1).run(suite)
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    words = f"{name}: {said.getvalue()}"
    return result.testsRun - failed - len(result.skipped), failed, len(result.skipped), words


def main(wanted: list[str]) -> int:
    chosen = [folder for folder in FOLDERS if not wanted or folder in wanted]
    modules = [str(path) for folder in chosen for path in sorted((ROOT / "tests" / folder).glob("test_*.py"))]
    with concurrent.futures.ProcessPoolExecutor(2) as pool:
        results = list(pool.map(run_module, modules))
    for *_, said in results:
        print(said)
    passed, failed, skipped = (sum(result[i] for result in results) for i in range(3))
    print(f"{passed} passed, {failed} failed" + (f", {skipped} skipped" if skipped else ""))
    return 1 if failed or not passed else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
