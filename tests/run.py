"""Runs everything, spread over the cores class by class, says each module as it ends with its time, and counts at the end.

`python -m tests.run [FOLDER …]` runs some folders; `--quick` leaves out the browser.
"""

import concurrent.futures
import io
import os
import shutil
import sys
import time
import unittest
from collections import Counter, defaultdict
from dataclasses import dataclass
from pathlib import Path

from tests.demo_file import demo_file

ROOT = Path(__file__).parent.parent
ROOM = 4 * 1024**3  # bytes
FOLDERS = ("stories", "services", "web", "checks", "core", "store", "formats", "cli")  # the slow ones are begun first
NEED_BROWSER = ("stories",)
LONGEST = (
    "test_two_at_once",
    "test_access",
    "test_register",
    "test_hostile",
    "test_house_rules",
    "test_sorting",
)  # a class runs in one process: these, begun last, would leave the others idle


@dataclass(frozen=True)
class Outcome:
    """What became of one class of tests: how many passed, failed and were skipped, how long it took, what was said."""

    module: str
    passed: int
    failed: int
    skipped: int
    seconds: float
    said: str


def run_class(module: str, kind: str) -> Outcome:
    """Runs one class of tests of a module by its name."""
    began, said = time.perf_counter(), io.StringIO()
    everything = unittest.TestLoader().loadTestsFromName(module)
    suite = unittest.TestSuite(test for test in _flat(everything) if type(test).__qualname__ == kind)
    result = unittest.TextTestRunner(stream=said, verbosity=1).run(suite)
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    skipped = len(result.skipped)
    words = said.getvalue() if failed else ""
    return Outcome(module, result.testsRun - failed - skipped, failed, skipped, time.perf_counter() - began, words)


def list_classes(folders: list[str]) -> list[tuple[str, str]]:
    """The classes of tests in these folders, each as (module, its name); a module that cannot be read is one of its own."""
    names: dict[tuple[str, str], None] = {}
    for folder in folders:
        for path in sorted((ROOT / "tests" / folder).rglob("test_*.py")):
            module = ".".join(path.relative_to(ROOT).with_suffix("").parts)
            names |= {(module, type(test).__qualname__): None for test in _flat(unittest.TestLoader().loadTestsFromName(module))}
    return list(names)


def _flat(suite: unittest.TestSuite):
    for one in suite:
        if isinstance(one, unittest.TestSuite):
            yield from _flat(one)
        else:
            yield one


def main(arguments: list[str]) -> int:
    """Runs what is asked for; 0 if all of it passed."""
    wanted = [word for word in arguments if not word.startswith("--")]
    left_out = NEED_BROWSER if "--quick" in arguments else ()
    classes = list_classes([f for f in FOLDERS if (not wanted or f in wanted) and f not in left_out])
    classes.sort(key=lambda one: not one[0].endswith(LONGEST))
    waiting = Counter(module for module, _ in classes)
    done: dict[str, list[Outcome]] = defaultdict(list)
    memory = Path("/dev/shm")  # the tests' files are forgotten: where there is room they need not wait for a disk
    if memory.is_dir() and os.access(memory, os.W_OK) and shutil.disk_usage(memory).free > ROOM:
        os.environ["TMPDIR"] = str(memory)
    demo_file()  # the processes are forked from this one and have it
    # A story waits for its browser half of the time: two more than there are cores keep them busy.
    with concurrent.futures.ProcessPoolExecutor((os.cpu_count() or 2) + 2) as pool:
        for running in concurrent.futures.as_completed([pool.submit(run_class, *one) for one in classes]):
            outcome = running.result()
            done[outcome.module].append(outcome)
            if outcome.said:
                print(outcome.said, flush=True)
            if len(done[outcome.module]) == waiting[outcome.module]:
                _say(outcome.module, done[outcome.module])
    everything = [outcome for outcomes in done.values() for outcome in outcomes]
    passed, failed, skipped = (sum(getattr(o, name) for o in everything) for name in ("passed", "failed", "skipped"))
    print(f"{passed} passed, {failed} failed" + (f", {skipped} skipped" if skipped else ""))
    return 1 if failed or not passed else 0


def _say(module: str, outcomes: list[Outcome]) -> None:
    """One line for a module that has ended."""
    passed, failed = sum(o.passed for o in outcomes), sum(o.failed for o in outcomes)
    words = f"{passed} passed" + (f", {failed} FAILED" if failed else "")
    print(f"{sum(o.seconds for o in outcomes):6.1f} s  {module.removeprefix('tests.')}: {words}", flush=True)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
