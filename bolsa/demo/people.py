"""Noor, Itziar and Mika on the Alkyon: accounts, categories, shops and what repeats. All of it is made up."""

from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from bolsa.core.accounts.terms import NO_TERMS, Terms

SEED = 20260514
FIRST_DAY = date(2022, 12, 14)
DEMO_DAY = date(2026, 5, 14)
LAST_DOWNLOAD = date(2026, 5, 7)
BANK_END = date(2026, 6, 30)

MEMBERS = ("Noor", "Itziar", "Mika")


@dataclass(frozen=True)
class DemoAccount:
    """An account of the household; `bank` is the key of the stand-in's institution that knows it."""

    key: str
    name: str
    kind: str
    institution: str
    number: str
    opening: str
    currency: str = "EUR"
    bank: str = ""
    note: str = ""
    owners: tuple[str, ...] = ()
    terms: Terms = NO_TERMS

    @property
    def facets(self) -> dict[str, str]:
        """What it is in the household's own facets."""
        return {"Purpose": PURPOSES[self.key], "Tax treatment": TREATMENTS.get(self.key, "Taxed")}


PURPOSES = {
    "current": "Day to day", "tin": "Day to day", "card": "Day to day", "reserve": "Safety", "notice": "Safety", "health": "Safety",
    "studio": "Studio", "van": "Studio", "loan": "Home", "alkyon": "Home", "kronor": "Later years", "pension": "Later years",
    "funds": "Later years", "depot": "Later years",
}  # fmt: skip
TREATMENTS = {"pension": "Taxed when drawn", "health": "Never taxed"}
ACCOUNTS = (
    DemoAccount("current", "Household current", "current", "Halden Mutual", "HM44100201", "3412.55", bank="halden",
                owners=("Noor", "Itziar")),
    DemoAccount("reserve", "Reserve", "savings", "Halden Mutual", "HM44100777", "2650.00", bank="halden",
                owners=("Noor", "Itziar"), terms=Terms(rate=Decimal("0.011"))),
    DemoAccount("studio", "Studio current", "current", "Pilot Cooperative", "PC20817", "1184.20", owners=("Itziar",)),
    DemoAccount("tin", "Cash tin", "cash", "", "", "140.00"),
    DemoAccount("card", "Corvane card", "card", "Corvane Card", "CV5512", "-386.40", bank="corvane", owners=("Noor",),
                terms=Terms(limit_minor=300_000, rate=Decimal("0.189"), statement_day=24, due_day=10, payment_minor=6_000)),
    DemoAccount("loan", "Barge loan", "loan", "Halden Mutual", "HM90012", "-58240.00", owners=("Noor", "Itziar"),
                terms=Terms(rate=Decimal("0.039"), principal_minor=6_500_000, term_months=134, payment_minor=61_200,
                            first_payment_on=date(2021, 11, 2))),
    DemoAccount("alkyon", "The Alkyon", "property", "", "", "121000.00", note="Converted barge, built 1931.",
                owners=("Noor", "Itziar"), terms=Terms(curve="carry")),
    DemoAccount("kronor", "Kronor savings", "savings", "Skerry Savings", "SK7781", "41250.00", currency="SEK", owners=("Noor",)),
    DemoAccount("van", "Delivery van, our half", "vehicle", "", "", "9400.00", note="Shared with Northshore Van Part.",
                owners=("Itziar",), terms=Terms(curve="percent", curve_rate=Decimal("-0.15"))),
    DemoAccount("pension", "Ferry pension", "pension", "Harbour Pensions", "HP3391", "38120.00", owners=("Noor",)),
    DemoAccount("health", "Health savings", "benefit", "Seagate Benefits", "SB1180", "640.00", owners=("Noor",),
                terms=Terms(ceiling_minor=140_000)),
    DemoAccount("notice", "Two-year deposit", "deposit", "Pilot Cooperative", "PC90022", "6000.00", owners=("Noor", "Itziar"),
                terms=Terms(rate=Decimal("0.026"), matures_on=date(2027, 3, 1), free_on=date(2026, 9, 1), exit_cost_minor=7_800)),
    DemoAccount("funds", "Skerry funds", "brokerage", "Skerry Savings", "SK7790", "1240.00", currency="SEK", owners=("Noor",)),
    DemoAccount("depot", "Halcyon depot", "brokerage", "Halcyon Brokers", "HD20881", "180.00", currency="USD", owners=("Itziar",)),
)  # fmt: skip

# Which of the market's securities the household has, and the index it looks at beside them.
SECURITIES = ("SKNI", "SKBL", "TERN", "WHRY", "LODE", "PETR", "HL40")
COMPARED = "HL40"
COUNTED = ("funds", "depot")  # accounts that are worth their cash and their shares

# Trades: (account, symbol, day, kind, shares, total, held since, reason). Without a total it is the market's price of the day. What
# was distributed of what is held in cash is confirmed until a day. A split three for one in April is not entered, a reinvested dividend is there
# twice, what Petrel had cost is typed as the price of one share, and the distributions of 1 May wait to be confirmed.
TRADES = (
    ("funds", "SKNI", date(2022, 12, 1), "opening", "182.4410", "34120.00", date(2019, 5, 10), "moved over from a bank in Visby Lane"),
    ("funds", "SKBL", date(2022, 12, 1), "opening", "160.5", "19880.00", date(2021, 2, 17), ""),
    ("funds", "SKNI", date(2024, 6, 12), "buy", "20.125", "", None, ""),
    ("funds", "SKBL", date(2025, 9, 3), "sell", "40", "", None, ""),
    ("depot", "TERN", date(2022, 12, 1), "opening", "40", "2148.00", date(2021, 6, 3), ""),
    ("depot", "WHRY", date(2022, 12, 1), "opening", "55", "1630.00", None, ""),
    ("depot", "PETR", date(2022, 12, 1), "opening", "30", "45.60", None, ""),
    ("depot", "LODE", date(2024, 2, 20), "in", "12", "", None, "a gift from Noor’s aunt, with her papers"),
    ("depot", "WHRY", date(2025, 3, 14), "reinvest", "0.7402", "", None, ""),
    ("depot", "WHRY", date(2026, 3, 13), "reinvest", "0.8124", "", None, ""),
    ("depot", "WHRY", date(2026, 3, 16), "reinvest", "0.8124", "23.11", None, ""),
)  # fmt: skip
CONFIRMED_UNTIL = date(2026, 4, 30)
REINVESTED = ("WHRY",)
FEES = {"buy": 3900, "sell": 3900}
KRONOR_TO_FUNDS = (date(2024, 6, 10), "5200.00")  # what the purchase was paid from

# What is held is made of: per cent by class, by symbol or account; accounts that count beside the holdings. The targets go by Noor's
# age, and what is put in a month is what she can spare.
BIRTH_YEARS = {"Noor": 1984, "Itziar": 1986, "Mika": 2016}
MADE_OF = {
    "SKBL": {"Bonds": "100"}, "pension": {"Shares": "55", "Bonds": "35", "Cash and deposits": "10"},
    "health": {"Cash and deposits": "100"}, "reserve": {"Cash and deposits": "100"}, "kronor": {"Cash and deposits": "100"},
}  # fmt: skip
TARGETS = {"Shares": "90 - age", "Bonds": "age - 10", "Cash and deposits": "20"}
PUT_IN = 48_000

# The long view: who works until when, pensions (whose, a year, from which age), what is planned (year, cost, every, until), what is
# paid into the pension a year, and the level of spending after work.
WORKS_UNTIL = {"Noor": "2049-06", "Itziar": "2051-12"}
PENSIONS = (("Harbour pension", "Noor", 840_000, 67), ("Artists’ fund", "Itziar", 480_000, 67))
PLANNED = (
    ("Re-plating the Alkyon", 2029, 1_400_000, 0, 0), ("Mika studies", 2034, 650_000, 1, 2037), ("A house ashore", 2038, 15_000_000, 0, 0),
)  # fmt: skip
PENSION_PAID_IN = 416_000
AFTER_WORK = "90"
EARNED_BY = {"Studio sales": "Itziar"}

# What the institutions list: (account, day, (security, shares) each).
LISTS = (
    ("funds", date(2026, 3, 31), (("Skerry Nordic Index", "202.566"), ("Skerry Bond Ladder", "120.5"))),
    ("depot", date(2026, 4, 30), (("Tern Robotics", "120"), ("Wherry Freight", "56.5526"), ("Lodestar Water", "12"),
                                  ("Petrel Instruments", "30"))),
)  # fmt: skip

# What was noted of apart accounts: (account, day, worth). The van and the barge are carried from month end to month end.
VALUES = (
    ("alkyon", date(2022, 12, 31), "121000.00"), ("alkyon", date(2023, 11, 30), "119500.00"),
    ("alkyon", date(2025, 9, 30), "117000.00"),
    ("van", date(2022, 12, 31), "9400.00"),
    *(("pension", date(year, month, day), worth) for (year, month, day), worth in zip(
        [(y, m, d) for y in (2023, 2024, 2025) for m, d in ((3, 31), (6, 30), (9, 30), (12, 31))] + [(2026, 3, 31)],
        ("39410.20", "40873.55", "40102.10", "42951.70", "45120.35", "46033.90", "47411.05", "47902.60", "46650.15", "49320.75",
         "51876.40", "53212.95", "54731.60"), strict=True)),
    *(("health", date(year, 12, 31), worth) for year, worth in ((2023, "982.40"), (2024, "1410.00"), (2025, "1763.85"))),
    ("health", date(2026, 4, 30), "1902.10"),
    ("notice", date(2025, 12, 31), "6117.00"), ("notice", date(2026, 4, 30), "6169.00"),
)  # fmt: skip

# (group, type, (category, expected a month in EUR, from when; an int stands for every month))
CATEGORIES = (
    ("Living", "spending", (("Groceries", 640), ("Market and bakery", 120), ("Household", 80), ("Eating out", 95), ("Health", 45))),
    ("Mika", "spending", (("School and lunches", 145), ("Pocket money", 24), ("Mika’s clothes", 60))),
    ("The Alkyon", "spending", (("Barge loan", 432), ("Loan interest", 190), ("Power and water", 98), ("Mooring lease", 0), ("Hull insurance", 0), ("Fuel and gas", 70), ("Upkeep", 90), ("Hull survey", 0))),
    ("Getting about", "spending", (("Ferry and train", 42), ("Van share", 60), ("Cargo bike", 15))),
    ("Ourselves", "spending", (("Phone and internet", 52), ("Subscriptions", 22), ("Noor’s own", 80), ("Itziar’s own", 80), ("Presents", 25))),
    ("Studio", "spending", (("Studio rent", 310), ("Clay and glazes", 95), ("Market stalls", 32), ("Quarterly tax", 0))),
    ("Far", "spending", (("New kiln", 0), ("A winter in the south", 0), ("Re-plating 2029", 0))),
    ("Money", "spending", (("Bank charges", 3), ("Unexplained", 0))),
    ("Income", "income", (("Noor’s pay", 0), ("Studio sales", 0), ("Mooring sublet", 0), ("Interest received", 0))),
)  # fmt: skip

# Bills that fall due in single months: expected then, nothing between; the share is put by each month.
SEASONAL = {
    "Mooring lease": ((1, 7), 1290, 215),
    "Hull insurance": ((9,), 462, 39),
    "Quarterly tax": ((3, 6, 9, 12), 390, 130),
}
# What is expected to come in, by the month from which it carries on: the month of three paydays stands for itself.
EXPECTED_INCOME = {
    "Noor’s pay": (((2026, 1), 3720), ((2026, 2), 2480), ((2026, 7), 3720), ((2026, 8), 2480)),
    "Studio sales": (((2026, 1), 900), ((2026, 6), 1900), ((2026, 7), 900), ((2026, 11), 2100)),
}
# What follows a thing through all categories: tags by payee.
TAGS = {
    "Northshore Van Part": "van", "Quayside Diesel": "van", "Bellwether Cycles": "bike", "Harbour Office": "mooring",
    "Berth Tenant": "mooring",
}  # fmt: skip
# What tags are for: (words, line of the tax form, copy).
TAG_WORDS = {
    "van": ("Our half of the delivery van", "", 0), "bike": ("The cargo bike", "", 0),
    "mooring": ("The second mooring, sublet to a tenant", "Rents, line 4", 1),
}  # fmt: skip
# What Itziar asks Noor: of the payee's latest sorted entry.
QUESTION = ("Anchor Chandlery", 2, 1, "is this for the hull, or for the van?")
# Rules, in their order, as a file of rules writes them. The fourth never met, and the fifth comes too late each time.
RULES = (
    {"when": [{"text": {"contains": ["SUBLET"]}}, {"direction": "in"}], "then": [{"file": "Mooring sublet"}, {"tag": "mooring"}]},
    {
        "when": [{"payee": {"contains": ["heron"]}}, {"amount": {"between": ["100.00", "250.00"], "currency": "EUR"}}],
        "then": [{"file": "School and lunches"}],
    },
    {
        "when": [{"account": ["Corvane card"]}, {"payee": {"is": ["Quayside Diesel", "Lock Fuel"]}}],
        "then": [{"file": "Fuel and gas"}, {"tag": "van"}],
    },
    {
        "when": [{"category": ["Itziar’s own"]}, {"amount": {"above": "150.00", "currency": "EUR"}}],
        "then": [{"ask": {"member": "Itziar", "note": "what was this for?"}}],
    },
    {"when": [{"payee": {"starts": ["Heron School"]}}], "then": [{"file": "School and lunches"}]},
    {"when": [{"account": ["Corvane card"]}, {"payee": {"is": ["Grebe Street Grocer"]}}], "then": [{"file": "Groceries"}]},
)
HULL_SURVEY = {2023: 690, 2025: 735}
# How needs come about beside what is expected: (kind, amount, by when, so much a month, again after months, since).
AIMS = {
    "Mooring lease": ("spread", 0, None, None, 0, (2022, 1)),
    "Hull insurance": ("spread", 0, None, None, 0, (2022, 1)),
    "Quarterly tax": ("spread", 0, None, None, 0, (2022, 1)),
    "Hull survey": ("build", 760, date(2027, 4, 30), None, 24, (2025, 11)),
    "Presents": ("keep", 100, None, None, 0, (2025, 12)),
    "New kiln": ("build", 8400, date(2026, 10, 31), None, 0, (2023, 1)),
    "A winter in the south": ("build", 2400, None, 80, 0, (2026, 1)),
    "Re-plating 2029": ("build", 18_000, date(2029, 5, 31), None, 0, (2022, 1)),
}  # fmt: skip
# A trial that was put by: figures by category and month, and what is given up from a month on.
TRIAL = (
    "Dearer mooring, no van",
    {("Mooring lease", (2026, 7)): 1490, ("Mooring lease", (2026, 8)): 0},
    {"Van share": (2026, 7)},
)
ALLOWANCES = {"Noor’s own": 1, "Itziar’s own": 2, "Pocket money": 3}
CLOSED_UNTIL = (2026, 3)  # the last month that was looked through and closed
GOALS = (("New kiln", 3), ("A winter in the south", 2), ("Re-plating 2029", 5))


@dataclass(frozen=True)
class Shop:
    """A shop: how often a month, what a visit costs (least, most), from which account, and how the bank writes it."""

    payee: str
    category: str
    visits: float
    least: float
    most: float
    account: str
    raw: str


SHOPS = (
    Shop("Grebe Street Grocer", "Groceries", 12.2, 9, 62, "card", "GREBE STREET GROCER 0093 PT HALDEN"),
    Shop("Halden Fish Quay", "Groceries", 3.1, 8, 34, "card", "HALDEN FISH QUAY 0011"),
    Shop("Sluice Wholefoods", "Groceries", 3.0, 14, 58, "current", "CARD SLUICE WHOLEFOODS 2214"),
    Shop("Millstone Bakery", "Market and bakery", 6.5, 3.2, 11.8, "card", "MILLSTONE BAKERY 0004"),
    Shop("Saturday Market", "Market and bakery", 3.6, 7, 24, "tin", ""),
    Shop("Lantern Hardware", "Household", 1.9, 6, 54, "card", "LANTERN HARDWARE 0310 PT HALDEN"),
    Shop("Cormorant Café", "Eating out", 4.2, 4.5, 19, "card", "CORMORANT CAFE 0027"),
    Shop("Kelp and Barley", "Eating out", 1.5, 16, 48, "card", "KELP + BARLEY 0102"),
    Shop("Seagate Pharmacy", "Health", 1.6, 6, 38, "card", "SEAGATE PHARMACY 7730"),
    Shop("Plover Shoes", "Mika’s clothes", 0.45, 28, 72, "card", "PLOVER SHOES 0008"),
    Shop("Thrift on the Quay", "Mika’s clothes", 0.7, 6, 31, "tin", ""),
    Shop("Quayside Diesel", "Fuel and gas", 1.25, 32, 78, "card", "QUAYSIDE DIESEL 0440"),
    Shop("Anchor Chandlery", "Upkeep", 1.7, 11, 96, "card", "ANCHOR CHANDLERY 0019"),
    Shop("Halden Ferries", "Ferry and train", 4.8, 3.4, 14.8, "card", "HALDEN FERRIES TICKET 5581"),
    Shop("Bellwether Cycles", "Cargo bike", 0.4, 12, 64, "card", "BELLWETHER CYCLES 0090"),
    Shop("Otter Books", "Noor’s own", 1.5, 7, 32, "card", "OTTER BOOKS 0055"),
    Shop("Sauna Society", "Noor’s own", 1.8, 12, 14, "current", "SAUNA SOCIETY"),
    Shop("Harbour Choir", "Itziar’s own", 1.1, 15, 15, "current", "HARBOUR CHOIR"),
    Shop("Wool and Weft", "Itziar’s own", 1.2, 9, 58, "card", "WOOL & WEFT 0121"),
    Shop("Paper Heron", "Presents", 0.9, 8, 41, "card", "PAPER HERON 0076"),
    Shop("Clayworks Depot", "Clay and glazes", 1.8, 18, 92, "studio", "CLAYWORKS DEPOT INV 20{n}"),
)


@dataclass(frozen=True)
class Regular:
    """Something that comes in certain months on about the same day; the price drifts by so much a year."""

    payee: str
    category: str
    day: int
    amount: float
    account: str
    raw: str
    drift: float = 0.0
    months: tuple[int, ...] = tuple(range(1, 13))
    spread: float = 0.0


REGULARS = (
    Regular("Heron School", "School and lunches", 4, 122.50, "current", "DIRECT DEBIT HERON SCHOOL OFFICE REF 8812", 0.03),
    Regular("Tidewater Power", "Power and water", 8, 88.0, "current", "DIRECT DEBIT TIDEWATER POWER 55120", 0.045, spread=14),
    Regular("Saltline Telecom", "Phone and internet", 15, 51.40, "current", "DIRECT DEBIT SALTLINE TELECOM 0199", 0.0),
    Regular("Curlew Streaming", "Subscriptions", 11, 9.90, "card", "CURLEW STREAMING"),
    Regular("Halden Chronicle", "Subscriptions", 2, 11.50, "card", "HALDEN CHRONICLE SUBSCR 3"),
    Regular("Northshore Van Part", "Van share", 20, 46.00, "current", "DIRECT DEBIT NORTHSHORE VAN SHARE", 0.02, spread=11),
    Regular("Kiln Lane Studios", "Studio rent", 1, 296.0, "studio", "STANDING ORDER KILN LANE STUDIOS", 0.018),
    Regular("Harbour Office", "Mooring lease", 12, 1244.0, "current", "HARBOUR OFFICE MOORING LEASE", 0.012, months=(1, 7)),
    Regular(
        "Gannet Hull Insurance",
        "Hull insurance",
        18,
        441.0,
        "current",
        "GANNET HULL INSURANCE POLICY 77-201",
        0.016,
        months=(9,),
    ),
    Regular("Revenue Office", "Quarterly tax", 22, 388.0, "studio", "REVENUE OFFICE Q TAX", 0.0, months=(3, 6, 9, 12), spread=26),
    Regular("Pilot Cooperative", "Bank charges", 28, 2.90, "studio", "ACCOUNT CHARGE"),
    Regular("Kittiwake Mooring", "Mooring sublet", 3, -180.0, "current", "KITTIWAKE MOORING SUBLET", 0.01),
)

# Noor's payslip, kept from the payday of 10 April: (kind, name, usual amount or "6 %", where it goes, the year before). The one of
# 24 April waits to be confirmed; three cents more of income tax were taken.
PAY_FROM = "Port Halden Ferry Company"
PAY_KEPT_FROM = date(2026, 4, 10)
PAY_LINES = (
    ("earned", "Base, 80 hours", "1998.04", "Noor’s pay", "13986.28"), ("earned", "Overtime", "", "Noor’s pay", "850.00"),
    ("before", "Ferry pension", "6 %", "pension", "890.16"), ("before", "Health savings", "35.00", "health", "245.00"),
    ("tax", "Income tax", "412.30", "", "3051.10"), ("tax", "Social dues", "256.23", "", "1903.27"),
    ("after", "Union dues", "14.50", "", "101.50"), ("employer", "Health savings", "26.65", "health", "186.55"),
)  # fmt: skip

NOT_YET_KEPT = ("Curlew Streaming", "Saltline Telecom")  # found as coming again, and not yet looked at
