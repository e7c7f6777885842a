// A day field opens a small month to click; the server reads what is typed and says what it understood.
const monthName = new Intl.DateTimeFormat("en", { month: "long", year: "numeric", timeZone: "UTC" });
const dayName = new Intl.DateTimeFormat("en", { weekday: "short", timeZone: "UTC" });
const longName = new Intl.DateTimeFormat("en", { dateStyle: "full", timeZone: "UTC" });
const DAY = 86400000;
const iso = (date) => date.toISOString().slice(0, 10);
const inPattern = (date, pattern) => pattern.replace("%d", iso(date).slice(8)).replace("%m", iso(date).slice(5, 7)).replace("%Y", iso(date).slice(0, 4));
const plusMonths = (date, months) => {
  const first = new Date(Date.UTC(date.getUTCFullYear(), date.getUTCMonth() + months, 1));
  const last = new Date(Date.UTC(first.getUTCFullYear(), first.getUTCMonth() + 1, 0)).getUTCDate();
  return new Date(first.getTime() + (Math.min(date.getUTCDate(), last) - 1) * DAY);
};
let open = null;

function close(focus) {
  if (!open) return;
  open.month.remove();
  if (focus) open.input.focus();
  open = null;
}

function choose(date) {
  const { input } = open;
  input.value = inPattern(date, input.dataset.pattern);
  close(true);
  for (const kind of ["input", "change"]) input.dispatchEvent(new Event(kind, { bubbles: true }));
}

function draw(date) {
  const { month, input } = open;
  const first = new Date(Date.UTC(date.getUTCFullYear(), date.getUTCMonth(), 1));
  const start = Number(input.dataset.weekStart);
  const lead = ((first.getUTCDay() + 6) % 7 - start + 7) % 7;
  const begin = first.getTime() - lead * DAY;
  const button = (words, title, go) => {
    const made = document.createElement("button");
    Object.assign(made, { type: "button", textContent: words, onclick: go });
    made.setAttribute("aria-label", title);
    return made;
  };
  const head = document.createElement("div");
  head.className = "month-head";
  const name = document.createElement("b");
  name.textContent = monthName.format(date);
  head.append(button("‹", "The month before", () => draw(plusMonths(date, -1))), name, button("›", "The month after", () => draw(plusMonths(date, 1))));
  const days = document.createElement("div");
  days.className = "month-days";
  for (let i = 0; i < 7; i += 1) {
    const label = document.createElement("span");
    label.textContent = dayName.format(new Date(begin + i * DAY)).slice(0, 2);
    days.append(label);
  }
  for (let i = 0; i < 42; i += 1) {
    const one = new Date(begin + i * DAY);
    const made = button(String(one.getUTCDate()), longName.format(one), () => choose(one));
    made.dataset.iso = iso(one);
    made.tabIndex = iso(one) === iso(date) ? 0 : -1;
    if (one.getUTCMonth() !== date.getUTCMonth()) made.className = "quiet";
    if (iso(one) === iso(date)) made.setAttribute("aria-current", "date");
    days.append(made);
  }
  month.replaceChildren(head, days);
  month.querySelector(`[data-iso="${iso(date)}"]`).focus();
}

document.addEventListener("click", (event) => {
  const opener = event.target.closest("[data-open-month]");
  if (!opener) { if (open && !event.target.closest(".month-pop") && event.target.isConnected) close(false); return; }
  const field = opener.closest("[data-day-field]"), input = field.querySelector("input");
  if (open) { close(true); return; }
  const said = field.querySelector("[data-iso]")?.dataset.iso || input.dataset.today;
  const month = document.createElement("div");
  month.className = "month-pop";
  month.setAttribute("role", "dialog");
  month.setAttribute("aria-label", "Choose a day");
  field.append(month);
  open = { input, month };
  draw(new Date(`${said}T00:00:00Z`));
});

document.addEventListener("keydown", (event) => {
  if (!open || !event.target.closest(".month-pop")) return;
  const here = event.target.dataset.iso ? new Date(`${event.target.dataset.iso}T00:00:00Z`) : null;
  const steps = { ArrowLeft: -1, ArrowRight: 1, ArrowUp: -7, ArrowDown: 7 };
  if (event.key === "Escape") close(true);
  else if (here && event.key in steps) draw(new Date(here.getTime() + steps[event.key] * DAY));
  else if (here && event.key === "PageUp") draw(plusMonths(here, -1));
  else if (here && event.key === "PageDown") draw(plusMonths(here, 1));
  else return;
  event.preventDefault();
  event.stopImmediatePropagation();
}, true);
