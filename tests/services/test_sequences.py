"""Whatever is done in whatever order, the services say what a plain model reckons, each step keeps what it promised, and every
promise of the ledger holds (bolsa/bench/soak); long runs are `bolsa bench --soak`."""

import os
import unittest
from unittest import mock

from bolsa.bench.soak import living
from bolsa.bench.soak.living import Broken, live
from bolsa.bench.soak.model import Figures
from bolsa.bench.soak.person import OFTEN, RARELY, SELDOM, Person, moved, same

HOUSEHOLDS, STEPS = 4, 50


class AnyOrder(unittest.TestCase):
    def test_every_figure_is_the_models_after_every_step(self):
        first = int(os.environ.get("BOLSA_TEST_SEED", "") or 2000)  # the same each time; `bolsa bench --soak` draws others
        for seed in range(first, first + HOUSEHOLDS):
            with self.subTest(seed=seed):
                live(seed, STEPS)

    def test_seeds_that_found_something_once(self):
        for seed, steps in ((27, 120), (1150, 75), (1297, 120)):
            with self.subTest(seed=seed):
                live(seed, steps)


class ThePromises(unittest.TestCase):
    """The machine sees what it is to see."""

    def test_a_figure_that_moved_and_one_that_should_have(self):
        before, after = Figures({1: 100, 2: 50}), Figures({1: 90, 2: 50})
        self.assertEqual(same("balances")(before, before), "")
        self.assertIn("balances of 1: 90, not 100", same("balances")(before, after))
        self.assertEqual(moved({1: -10})(before, after), "")
        self.assertIn("account 2 moved by 0, not 5", moved({1: -10, 2: 5})(before, after))

    def test_every_verb_is_lived(self):
        verbs = {name for name, verb in vars(Person).items() if callable(verb) and not name.startswith("_")}
        helpers = {"day", "month", "account", "entry", "one_of"}
        self.assertEqual(verbs - helpers, {verb.__name__ for verb in (*OFTEN, *SELDOM, *RARELY)})

    def test_a_broken_promise_names_its_seed(self):
        def lies(_person):
            return lambda _before, _after: "it lied"

        with mock.patch.object(living, "OFTEN", (lies,)):
            self.assertRaisesRegex(Broken, "seed 5, step .*, lies: it lied", live, 5, 40)


if __name__ == "__main__":
    unittest.main()
