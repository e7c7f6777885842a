"""Every main view passes the accessibility engine, in light and in dark, and works without script."""

from tests.stories.visitor import NARROW, Story

VIEWS = (
    "/", "/books", "/books/1?text=ferry", "/books/bring-in", "/sort", "/budget?open=34&aim=1", "/budget/year", "/due", "/worth",
    "/answers/where", "/house", "/holdings", "/ahead",
)  # fmt: skip
# What is made of the same parts, in the same colours: all but contrast, which takes as long as all the rest.
OTHERS = (
    "/books/1/check", "/books/1/new", "/books/accounts/new", "/budget/baseline", "/due/1", "/pay/1", "/answers", "/answers/grew",
    "/sort/transfers", "/sort/rules?open=2", "/payees/5", "/house/categories", "/house/tags", "/working/unplaced/all",
    "/books/7/values", "/books/accounts/several", "/find?q=heron", "/entries/100", "/holdings/mix", "/debts?more=200",
    "/ahead/1/plan", "/holdings/trades/new?kind=sell&account=13&security=2", "/holdings/securities/3",
)  # fmt: skip
# A theme changes colours alone, and these views have them all.
IN_DARK = (
    "/",
    "/books/1?text=ferry",
    "/budget?open=8",
    "/answers/grew",
    "/debts?more=200",
)
# On a narrow screen other things scroll, and tables flow.
IN_NARROW = ("/", "/books/1", "/sort", "/budget", "/holdings/mix", "/payees/2")


class InLight(Story):
    def test_every_main_view(self):
        for path in VIEWS:
            with self.subTest(path=path):
                self.visitor.goes_to(path)
                self.assert_accessible()


class Others(Story):
    def test_every_other_view(self):
        for path in OTHERS:
            with self.subTest(path=path):
                self.visitor.goes_to(path)
                self.assert_accessible(without_contrast=True)


class Narrow(Story):
    viewport = NARROW

    def test_every_kind_of_view(self):
        for path in IN_NARROW:
            with self.subTest(path=path):
                self.visitor.goes_to(path)
                self.assert_accessible(without_contrast=True)


class InDark(Story):
    def test_every_view_has_enough_contrast(self):
        self.visitor.page.emulate_media(color_scheme="dark")
        for path in IN_DARK:
            with self.subTest(path=path):
                self.visitor.goes_to(path)
                self.assert_accessible(only_contrast=True)


class WithoutScript(Story):
    def test_a_figure_and_a_form_work_without_script(self):
        v = self.visitor
        context = v.page.context.browser.new_context(java_script_enabled=False)
        page = context.new_page()
        page.goto(v.address + "/budget")
        page.locator("h1 a.fig").first.click()
        self.assertIn("comes about", page.locator("h1").inner_text())
        page.goto(v.address + "/books/4")
        page.get_by_label("Quick line").fill("mill 2.20")
        page.get_by_role("button", name="Enter").click()
        self.assertIn("Millstone Bakery", page.locator("tr[data-row]").first.inner_text())
        context.close()
