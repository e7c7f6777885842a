// What makes the pages quick: keys, slips, selection, the ribbon. Everything here also works without it, by links and forms.
"use strict";

const one = (selector, within = document) => within.querySelector(selector);
const all = (selector, within = document) => [...within.querySelectorAll(selector)];
const isTyping = (target) => target.closest("input:not([type=checkbox]), select, textarea, [contenteditable]");

// --- slips: a figure opens its working right under it -------------------------------------------------------------
let slipOwner = null;

function closeSlip() {
  const layer = one("#slip");
  if (layer.hidden) return false;
  layer.hidden = true;
  layer.replaceChildren();
  if (slipOwner && slipOwner.isConnected) slipOwner.focus();
  slipOwner = null;
  return true;
}

async function openSlip(figure) {
  const reply = await fetch(figure.href, { headers: { "HX-Request": "true" } });
  if (!reply.ok) { location.href = figure.href; return; }
  const layer = one("#slip");
  layer.innerHTML = await reply.text();
  layer.hidden = false;
  slipOwner = figure;
  const at = figure.getBoundingClientRect();
  const left = Math.max(8, Math.min(at.left + window.scrollX, document.documentElement.clientWidth - layer.offsetWidth - 8));
  layer.style.left = `${left}px`;
  layer.style.top = `${at.bottom + window.scrollY + 6}px`;
  one(".slip", layer).focus();
}

document.addEventListener("click", (event) => {
  const figure = event.target.closest("a[data-slip]");
  if (figure && !event.ctrlKey && !event.metaKey) {
    event.preventDefault();
    if (slipOwner === figure) closeSlip(); else openSlip(figure);
    return;
  }
  if (!event.target.closest("#slip")) closeSlip();
  if (event.target.closest("[data-keys]")) one("#keys").showModal();
});

// A row opens by a click anywhere on it that is not meant for something in it, nor marks words to copy.
document.addEventListener("click", (event) => {
  const row = event.target.closest("[data-row]");
  if (!row || event.target.closest("a, button, input, select, label, summary, [role=listbox]") || String(getSelection())) return;
  all("[data-row][data-here]").forEach((other) => other.toggleAttribute("data-here", other === row));
  row.setAttribute("data-here", "");
  here = all("[data-row]").indexOf(row);
  press("[data-open]", row);
});

document.addEventListener("change", (event) => {
  if (event.target.matches("[data-submit]")) event.target.form.requestSubmit();
});

// --- rows: j and k walk, x chooses, Enter opens, e edits ----------------------------------------------------------
let here = -1;

function walk(step) {
  const rows = all("[data-row]");
  if (!rows.length) return;
  const current = rows.findIndex((row) => row.hasAttribute("data-here"));
  here = Math.max(0, Math.min(rows.length - 1, current < 0 ? (step > 0 ? 0 : rows.length - 1) : current + step));
  rows.forEach((row, i) => row.toggleAttribute("data-here", i === here));
  rows[here].scrollIntoView({ block: "nearest" });
}

const rowHere = () => one("[data-row][data-here]");

function keepPlace() {
  const rows = all("[data-row]");
  if (rows[here] && !rowHere()) rows[here].setAttribute("data-here", "");
}

function press(selector, within = document) {
  const found = one(selector, within);
  if (found) found.click();
  return Boolean(found);
}

// --- keys ----------------------------------------------------------------------------------------------------------
let waitingForPage = false;

const KEYS = {
  j: () => walk(1),
  k: () => walk(-1),
  x: () => rowHere() && press("input[data-pick]", rowHere()),
  e: () => rowHere() && press("[data-edit]", rowHere()),
  Enter: () => (rowHere() ? press("[data-open]", rowHere()) : press("[data-key=Enter]")),
  n: () => { const line = one("[data-new]"); if (line) (line.matches("input") ? line.focus() : line.click()); return Boolean(line); },
  u: () => press("[data-undo]"),
  c: () => { const choice = one("[data-other]"); if (choice) choice.focus(); return Boolean(choice); },
  K: () => rowHere() && press("[data-move=up]", rowHere()),
  J: () => rowHere() && press("[data-move=down]", rowHere()),
  o: () => press("[data-key=o]"),
  a: () => press("[data-key=a]"),
  r: () => press("[data-key=r]"),
  "/": () => { const find = one("[data-find]"); if (find) { find.focus(); find.select(); } return Boolean(find); },
  f: () => { const filter = one("[data-filter]"); if (filter) { filter.focus(); filter.select(); } return Boolean(filter); },
  "[": () => press(".ribbon a:has(+ [aria-current])"),
  "]": () => press(".ribbon [aria-current] + a"),
  "?": () => { one("#keys").showModal(); return true; },
};
for (const digit of "123456789") KEYS[digit] = () => press(`[data-key="${digit}"]`);

document.addEventListener("keydown", (event) => {
  if (event.key === "Escape") {
    if (closeSlip()) return;
    if (event.target.matches("[data-find]")) closeFound();
    if (isTyping(event.target)) { event.target.blur(); return; }
    press("[data-cancel]");
    return;
  }
  if (event.key === "F2" && press(".entry-form [data-more]")) { event.preventDefault(); return; }
  if (event.ctrlKey || event.metaKey || event.altKey || isTyping(event.target) || one("dialog[open]")) return;
  if (waitingForPage) {
    waitingForPage = false;
    if (press(`[data-go="${event.key}"]`)) event.preventDefault();
    return;
  }
  if (event.key === "g") { waitingForPage = true; return; }
  if (event.key === "Enter" && event.target.closest("a, button, summary, input")) return;
  const act = KEYS[event.key];
  if (act && act() !== false) event.preventDefault();
});

// --- the ribbon can be dragged: the month under the pointer is taken when it is let go ------------------------------
let dragFrom = null;
document.addEventListener("pointerdown", (event) => { dragFrom = event.target.closest("[data-ribbon] a"); });
document.addEventListener("pointerup", (event) => {
  const cell = document.elementFromPoint(event.clientX, event.clientY)?.closest("[data-ribbon] a");
  if (dragFrom && cell && cell !== dragFrom) cell.click();
  dragFrom = null;
});

// On a narrow screen the ribbon is longer than the page: the chosen month is brought into sight.
document.addEventListener("DOMContentLoaded", () => {
  const ribbon = one("[data-ribbon]"), chosen = one("[data-ribbon] [aria-current]");
  if (ribbon && chosen) ribbon.scrollLeft = chosen.offsetLeft - ribbon.clientWidth / 2;
});

// --- long work shows that it goes on; a swapped page keeps its place ------------------------------------------------
document.addEventListener("submit", (event) => {
  const button = event.submitter;
  if (button && button.dataset.busy) { button.dataset.words = button.textContent; button.textContent = button.dataset.busy; }
});
document.addEventListener("htmx:afterSettle", keepPlace);
document.addEventListener("htmx:beforeSwap", (event) => {
  // An answer that is a page of words about a mistake is shown too.
  if (event.detail.xhr.status >= 400) event.detail.shouldSwap = true;
});

// --- an entry opened under its row: one at a time, closed by "Leave it" or Esc ----------------------------------------
document.addEventListener("htmx:beforeRequest", (event) => {
  // What is kept leads on to the row after it.
  const done = event.target.matches(".entry-form") && event.target.closest("tr.opened")?.previousElementSibling;
  if (done) here = all("[data-row]").indexOf(done) + 1;
  const row = event.target.closest("tr[data-row]");
  if (!row || !event.target.matches("[data-edit]")) return;
  const open = row.nextElementSibling?.matches("tr.opened");
  all("tr.opened").forEach((other) => other.remove());
  if (open) event.preventDefault();
});
document.addEventListener("htmx:afterSettle", () => { const field = one("tr.opened [name=payee]"); if (field && !field.closest("form").contains(document.activeElement)) field.focus(); });
document.addEventListener("click", (event) => {
  const cancel = event.target.closest("tr.opened [data-cancel]");
  if (cancel) { event.preventDefault(); cancel.closest("tr.opened").remove(); }
});

// --- find: the arrows walk what was found, Enter goes there -----------------------------------------------------------
let goWhenFound = false;  // Enter came before the answer to what is typed

function closeFound() { const found = one("#found"); if (found) found.replaceChildren(); goWhenFound = false; }

function foundFits() {
  const shown = one("#found [data-text]");
  return Boolean(shown) && shown.dataset.text === one("[data-find]").value.trim();
}
document.addEventListener("keydown", (event) => {
  if (!event.target.matches("[data-find]") || !["ArrowDown", "ArrowUp", "Enter"].includes(event.key)) return;
  event.preventDefault();
  if (event.key === "Enter" && !foundFits()) { goWhenFound = Boolean(event.target.value.trim()); return; }
  const links = all("#found a[data-found]");
  if (!links.length) return;
  const at = links.findIndex((link) => link.hasAttribute("data-here"));
  if (event.key === "Enter") { links[Math.max(at, 0)].click(); return; }
  const next = Math.max(0, Math.min(links.length - 1, at + (event.key === "ArrowDown" ? 1 : -1)));
  links.forEach((link, i) => link.toggleAttribute("data-here", i === next));
  links[next].scrollIntoView({ block: "nearest" });
});
document.addEventListener("htmx:afterSwap", (event) => {
  if (event.target.id !== "found" || !goWhenFound || !foundFits()) return;
  goWhenFound = false;
  press("#found a[data-found]");
});
document.addEventListener("click", (event) => { if (!event.target.closest(".find")) closeFound(); });

// --- the quick line: Tab takes the completion shown ------------------------------------------------------------------
let typedMeanwhile = "";

function takeCompletion(words) {
  const line = one("[data-quick]");
  line.value = `${words} `;
  line.focus();
  line.dispatchEvent(new Event("input", { bubbles: true }));
}
document.addEventListener("keydown", (event) => {
  if (event.key !== "Tab" || event.shiftKey || !event.target.matches("[data-quick]")) return;
  const shown = one("[data-completed]");
  if (shown && shown.dataset.completed.toLowerCase().startsWith(event.target.value.toLowerCase().slice(0, -1)) && !event.target.value.endsWith(" ")) { event.preventDefault(); takeCompletion(shown.dataset.completed); }
});
document.addEventListener("click", (event) => { const shown = event.target.closest("[data-completed]"); if (shown) takeCompletion(shown.dataset.completed); });

// The line is free for the next receipt as soon as Enter is pressed; what is typed meanwhile is kept when the answer comes.
document.addEventListener("htmx:beforeRequest", (event) => {
  const line = one("[data-quick]", event.target);
  if (line && event.target.matches("form")) line.value = "";
});
document.addEventListener("htmx:beforeSwap", (event) => {
  const line = one("[data-quick]");
  if (line && event.detail.target.id === "work") typedMeanwhile = line.value;
});
document.addEventListener("htmx:afterSettle", () => {
  const line = one("[data-quick]");
  if (!line || !typedMeanwhile) return;
  line.value = typedMeanwhile;
  typedMeanwhile = "";
  line.focus();
  line.dispatchEvent(new Event("input", { bubbles: true }));
});

const printIfAsked = () => { if (one("[data-print-now]")) window.print(); };
document.addEventListener("DOMContentLoaded", printIfAsked);

// --- what an account's kind asks for; accounts dragged into another's place ----------------------------------------------
document.addEventListener("change", (event) => {
  if (!event.target.matches("[data-kind]")) return;
  all("[data-of-kind]").forEach((field) => { field.hidden = !field.dataset.ofKind.split(" ").includes(event.target.value); });
});
let dragged = null;
document.addEventListener("dragstart", (event) => { dragged = event.target.closest && event.target.closest("tr[data-account]"); });
document.addEventListener("dragover", (event) => {
  const over = event.target.closest && event.target.closest("tr[data-account]");
  if (dragged && over && over.dataset.everyday === dragged.dataset.everyday) event.preventDefault();
});
document.addEventListener("drop", (event) => {
  const over = event.target.closest && event.target.closest("tr[data-account]");
  const form = one("[data-drag]");
  if (!dragged || !over || over === dragged || !form) return;
  event.preventDefault();
  const url = form.getAttribute("action").replace("/0/", `/${dragged.dataset.account}/`);
  form.setAttribute("action", url);
  form.removeAttribute("hx-post");
  one("[name=to]", form).value = over.dataset.account;
  form.submit();
});

// --- a list as CSV on the clipboard, and on paper ---------------------------------------------------------------------
document.addEventListener("click", async (event) => {
  const copy = event.target.closest("[data-copy]");
  if (!copy) return;
  const reply = await fetch(copy.dataset.copy);
  await navigator.clipboard.writeText(await reply.text());
  const words = copy.textContent;
  copy.textContent = "Copied";
  setTimeout(() => { copy.textContent = words; }, 4000);
});

// --- choosing rows fills the foot bar; a split grows by a row --------------------------------------------------------
function showFoot() {
  const foot = one("[data-foot]");
  if (!foot) return;
  const chosen = all("input[data-pick]:checked");
  foot.hidden = !chosen.length;
  const count = one("[data-count]", foot);
  if (count) count.textContent = chosen.length;
  if (chosen.length && one("[data-chosen]", foot)) document.body.dispatchEvent(new Event("picked"));
}
function showFieldsFor(choice) {
  all("[data-for]").forEach((field) => { field.hidden = !field.dataset.for.split(" ").includes(choice.value); });
}
document.addEventListener("change", (event) => {
  if (event.target.matches("[data-pick-all]")) all("input[data-pick]").forEach((box) => { box.checked = event.target.checked; });
  if (event.target.matches("[data-pick], [data-pick-all]")) showFoot();
  if (event.target.matches("[data-what]")) showFieldsFor(event.target);
});
document.addEventListener("htmx:afterSettle", (event) => { if (!event.target.closest("[data-foot]")) showFoot(); });
window.addEventListener("pageshow", showFoot);

document.addEventListener("click", (event) => {
  if (!event.target.closest("[data-add-part]")) return;
  const rows = all(".split-row");
  const fresh = rows[rows.length - 1].cloneNode(true);
  all(".picker", fresh).forEach((picker) => {
    const field = one("select, [data-suggest]", picker);
    delete field.dataset.picked;
    delete field.dataset.suggesting;
    field.hidden = false;
    picker.replaceWith(field);
  });
  all("select, input", fresh).forEach((field) => { field.value = ""; });
  rows[rows.length - 1].after(fresh);
  fresh.dispatchEvent(new Event("parts:added", { bubbles: true }));
  one("[role=combobox], select", fresh).focus();
});
