"""Long work beside the request: quick work answers at once, slow work shows how far it is, a failure is told where it leads."""

import threading

from bolsa.errors import ServiceUnavailable, UnreadableFile
from bolsa.services import changes
from bolsa.store.house import household
from bolsa.web import jobs
from bolsa.web.forms import Message
from tests.web.test_pages import PagesCase


class LongWork(PagesCase):
    def setUp(self):
        super().setUp()
        self.go_on = threading.Event()
        self.addCleanup(self.go_on.set)
        self.app.add_url_rule("/slow", "slow", view_func=lambda: jobs.run("Counting", "/books", self.slow))
        self.app.add_url_rule("/quick", "quick", view_func=lambda: jobs.run("Counting", "/books", self.quick))
        self.app.add_url_rule("/counts", "counts", view_func=lambda: jobs.run("Counting", "/books", self.counts_on))
        self.app.add_url_rule("/asks", "asks", view_func=lambda: f"It says {jobs.fetch('Asking', self.answers)}.")
        self.app.add_url_rule("/fails", "fails", view_func=lambda: jobs.run("Counting", "/books", self.fails))

    def quick(self, db, report):
        return jobs.Outcome("/worth", (Message("All is counted"),))

    def slow(self, db, report):
        report(3, 10, "three of ten")
        self.go_on.wait(20)
        return self.quick(db, report)

    def fails(self, db, report):
        self.go_on.wait(20)
        raise UnreadableFile("The third is no number.")

    def test_quick_work_leads_on_at_once(self):
        self.assertEqual(self.client.get("/quick").location, "/worth")
        self.assertIn("All is counted", self.client.get("/worth").text)

    def test_slow_work_shows_its_counts_until_it_is_done(self):
        progress = self.client.get("/slow").location
        self.assertIn("Counting: 3 of 10", self.client.get(progress).text)
        (job,) = self.app.extensions["jobs"].values()
        self.go_on.set()
        job.finished.wait(5)
        reply = self.client.get(progress, headers={"HX-Request": "true"})
        self.assertEqual(reply.headers["HX-Redirect"], "/worth")
        self.assertIn("All is counted", self.client.get("/worth").text)
        self.assertEqual(self.client.get(progress).location, "/worth")  # as by Back
        self.assertNotIn("All is counted", self.client.get("/worth").text)

    def answers(self, db):
        self.go_on.wait(20)
        if self.answer is None:
            raise ServiceUnavailable("It does not answer.")
        return self.answer

    def test_a_page_that_asks_another_service_waits_elsewhere_and_shows_its_answer(self):
        for answer, said in (("yes", "It says yes."), (None, "It does not answer.")):
            self.answer = answer
            self.go_on.clear()
            progress = self.client.get("/asks?q=1").location
            self.assertIn("Asking", self.client.get(progress).text)
            self.go_on.set()
            (job,) = self.app.extensions["jobs"].values()
            job.finished.wait(5)
            page = self.client.get(progress).location
            self.assertIn("q=1", page)
            self.assertIn(said, self.client.get(page).text)
            self.assertEqual(self.app.extensions["jobs"], {})
            self.answer = "again"
            self.assertIn("It says again.", self.client.get(page).text)

    def counts_on(self, db, report):
        with changes.note(db):
            household.put_setting(db, "counted", "some of it")
            for done in range(10_000):
                report(done, 10_000, "counting on")
                self.go_on.wait(0.01)
        return jobs.Outcome("/worth")

    def test_work_is_stopped_and_nothing_of_it_is_kept(self):
        self.app.config["WTF_CSRF_ENABLED"] = False
        progress = self.client.get("/counts").location
        self.assertIn("Stop it", self.client.get(progress).text)
        self.assertEqual(self.client.post(f"{progress}/stop").location, progress)
        self.assertEqual(self.client.get(progress).location, "/books")
        self.assertIn("Stopped. Nothing of it was kept.", self.client.get("/books").text)
        self.assertIsNone(household.find_setting(self.db, "counted"))

    def test_an_answer_is_shown_for_what_was_asked_alone(self):
        self.answer = "yes"
        asked = self.client.get("/asks?q=1").location.rpartition("/")[2]
        other = self.client.get("/fails").location.rpartition("/")[2]
        self.go_on.set()
        for job in self.app.extensions["jobs"].values():
            job.finished.wait(5)
        self.answer = "anew"
        for address in (f"/asks?q=2&asked={asked}", f"/asks?asked={other}"):
            with self.subTest(address):
                self.assertIn("It says anew.", self.client.get(address).text)
        self.assertIn("It says yes.", self.client.get(f"/asks?q=1&asked={asked}").text)

    def test_a_failure_leads_back_and_says_why(self):
        progress = self.client.get("/fails").location
        (job,) = self.app.extensions["jobs"].values()
        self.go_on.set()
        job.finished.wait(5)
        self.assertEqual(self.client.get(progress).location, "/books")
        self.assertIn("The third is no number", self.client.get("/books").text)
