// A picker takes the place of a long select: any letters find, arrows walk, Enter takes, a new one is made in place.
// The select stays below it and is what the form sends; without script it is all there is.
let count = 0;

// The list below a field: rows that arrows walk and that Enter, Tab or a click take.
function listBelow(input, box, label) {
  count += 1;
  const list = document.createElement("ul");
  list.id = `picked-${count}`;
  list.setAttribute("role", "listbox");
  list.setAttribute("aria-label", label);
  list.hidden = true;
  const facts = { role: "combobox", autocomplete: "off", "aria-expanded": "false", "aria-autocomplete": "list", "aria-controls": list.id };
  for (const [name, value] of Object.entries(facts)) input.setAttribute(name, value);
  box.append(list);
  let rows = [], at = 0;
  const below = {
    get isOpen() { return !list.hidden; },
    get rows() { return rows; },
    get marked() { return rows[at]?.words; },
    empty() { rows = []; list.replaceChildren(); },
    close() { list.hidden = true; input.setAttribute("aria-expanded", "false"); input.removeAttribute("aria-activedescendant"); },
    show(first = 0) {
      at = first;
      list.hidden = false;
      input.setAttribute("aria-expanded", "true");
      below.mark();
    },
    mark() {
      rows.forEach((row, i) => row.item.setAttribute("aria-selected", i === at ? "true" : "false"));
      if (rows[at]) { input.setAttribute("aria-activedescendant", rows[at].item.id); rows[at].item.scrollIntoView({ block: "nearest" }); }
    },
    walk(step) { at = Math.max(0, Math.min(rows.length - 1, at + step)); below.mark(); },
    sort(rank) { rows.sort((a, b) => rank(a.words) - rank(b.words)); rows.forEach((row) => list.append(row.item)); },
    add(words, note, take) {
      const item = document.createElement("li"), name = document.createElement("span");
      item.setAttribute("role", "option");
      item.id = `${list.id}-${rows.length}`;
      name.textContent = words;
      item.append(name);
      if (note) below.note(item, note);
      item.addEventListener("mousedown", (event) => { event.preventDefault(); take(); });
      list.append(item);
      rows.push({ item, take, words: words.toLowerCase() });
    },
    note(item, words) { item.append(Object.assign(document.createElement("span"), { className: "quiet", textContent: words })); },
    say(words, kind) { list.append(Object.assign(document.createElement("li"), { className: kind, textContent: words })); },
    takeMarked() { rows[at]?.take(); },
    get hasMarked() { return Boolean(rows[at]); },
  };
  return below;
}

function boxFor(field, classes = "") {
  const box = document.createElement("span");
  box.className = `picker ${classes}`;
  field.before(box);
  return box;
}

function labelOf(field) {
  const label = field.labels[0];
  return field.getAttribute("aria-label") || (label ? [...label.childNodes].filter((n) => n !== field).map((n) => n.textContent).join(" ").replace(/\s+/g, " ").trim() : "");
}

// --- a select becomes a picker ---------------------------------------------------------------------------------------
function enhance(select) {
  if (select.dataset.picked) return;
  select.dataset.picked = "yes";
  const input = document.createElement("input"), label = labelOf(select), box = boxFor(select, select.className);
  Object.assign(input, { type: "text", placeholder: select.options[0] && !select.options[0].value ? select.options[0].text : "" });
  input.setAttribute("aria-label", label);
  if (select.getAttribute("aria-invalid")) input.setAttribute("aria-invalid", "true");
  for (const name of ["other", "open", "transfer"]) if (name in select.dataset) { input.dataset[name] = ""; delete select.dataset[name]; }
  box.append(input);
  const below = listBelow(input, box, label);
  box.append(select);
  select.hidden = true;
  const show = () => { const chosen = select.selectedOptions[0]; input.value = chosen && chosen.value ? chosen.text : ""; };
  show();

  function take(value, andSend) {
    select.value = value;
    show();
    below.close();
    select.dispatchEvent(new Event("change", { bubbles: true }));
    if (andSend && "sendOnPick" in select.dataset && value) select.form.requestSubmit();
  }
  function open(typed) {
    const words = typed.toLowerCase().split(/\s+/).filter(Boolean), seen = new Set(), name = typed.trim();
    below.empty();
    for (const option of select.options) {
      const group = option.parentElement.label || "", text = option.text;
      const fits = words.every((word) => text.toLowerCase().includes(word) || group.toLowerCase().includes(word));
      if (!fits || seen.has(option.value) || (!option.value && words.length)) continue;
      seen.add(option.value);
      below.add(text, group, () => take(option.value, true));
    }
    if (words.length) below.sort((text) => (text.startsWith(words[0]) ? 0 : 1));
    if (select.dataset.make && name && !below.rows.some((row) => row.words === name.toLowerCase())) {
      below.add(`Make “${name}”…`, "a new one", () => chooseGroup(name));
    }
    if (!below.rows.length) below.say("Nothing has these letters.", "quiet");
    below.show();
  }
  function chooseGroup(name) {
    const groups = [...new Set([...select.querySelectorAll("optgroup")].map((group) => group.label))].filter((group) => group !== "Lately");
    below.empty();
    groups.forEach((group) => below.add(group, `put “${name}” here`, () => make(name, group)));
    below.show();
  }
  async function make(name, group) {
    const token = document.querySelector("input[name=csrf_token]").value;
    const body = new URLSearchParams({ name, group, csrf_token: token });
    const reply = await fetch(select.dataset.make, { method: "POST", body });
    const made = await reply.json();
    if (!reply.ok) { below.empty(); below.say(made.sentence, "wrong"); return; }
    select.append(new Option(made.name, made.id));
    take(String(made.id), true);
  }
  input.addEventListener("focus", () => input.select());
  input.addEventListener("input", () => open(input.value));
  input.addEventListener("click", () => { if (!below.isOpen) open(""); });
  input.addEventListener("blur", () => { below.close(); show(); });
  input.addEventListener("keydown", (event) => {
    if (event.key === "ArrowDown" || event.key === "ArrowUp") {
      event.preventDefault();
      if (below.isOpen) below.walk(event.key === "ArrowDown" ? 1 : -1); else open("");
    } else if (below.isOpen && below.hasMarked && (event.key === "Enter" || (event.key === "Tab" && input.value.trim()))) {
      if (event.key === "Enter") event.preventDefault();
      below.takeMarked();
    } else if (event.key === "Enter" && "sendOnPick" in select.dataset) {
      event.preventDefault();  // nothing is chosen: the form's first button is not meant
    } else if (event.key === "Escape" && below.isOpen) {
      event.stopPropagation();
      below.close();
      show();
    }
  });
  select.addEventListener("change", show);
  select.form?.addEventListener("reset", () => setTimeout(show));
}

// --- a field of free words says what is known by them: payees, tags, securities -----------------------------------------
function suggest(input) {
  if (input.dataset.suggesting) return;
  input.dataset.suggesting = "yes";
  const label = labelOf(input), hadFocus = document.activeElement === input, box = boxFor(input, input.className.includes("w-[") ? "" : "w-full");
  box.append(input);
  if (hadFocus) input.focus();
  const below = listBelow(input, box, label), several = "suggestEach" in input.dataset;
  let asked = "";
  const typed = () => (several ? input.value.split(/[\s,]+/).pop() : input.value).replace(/^#/, "");

  function take(name) {
    input.value = several ? input.value.replace(/[^\s,]*$/, `${name} `) : name;
    below.close();
    input.dispatchEvent(new Event("change", { bubbles: true }));
  }
  async function open() {
    asked = typed();
    const wanted = asked;
    const reply = await fetch(`${input.dataset.suggest}?text=${encodeURIComponent(wanted)}`);
    const names = reply.ok ? await reply.json() : [];
    if (wanted !== asked || document.activeElement !== input) return;
    const marked = below.isOpen ? below.marked : undefined;  // what was walked to while this was asked stays so
    below.empty();
    for (const name of names) if (name !== wanted) below.add(name, "", () => take(name));
    if (below.rows.length) below.show(below.rows.findIndex((row) => row.words === marked)); else below.close();
  }
  input.addEventListener("input", (event) => { if (event.isTrusted) open(); });
  input.addEventListener("blur", () => { asked = null; below.close(); });
  input.addEventListener("keydown", (event) => {
    if (event.key === "ArrowDown" || event.key === "ArrowUp") {
      event.preventDefault();
      if (below.isOpen) below.walk(event.key === "ArrowDown" ? 1 : -1); else open();
    } else if (event.key === "Enter" && below.isOpen && below.hasMarked) {
      event.preventDefault();
      below.takeMarked();
    } else if (event.key === "Escape" && below.isOpen) {
      event.stopPropagation();
      below.close();
    }
  });
}

const enhanceAll = (within) => {
  within.querySelectorAll?.("select[data-picker]").forEach(enhance);
  within.querySelectorAll?.("input[data-suggest]").forEach(suggest);
};
enhanceAll(document);
document.addEventListener("htmx:afterSwap", (event) => enhanceAll(event.target.isConnected ? event.target.parentElement || document : document));
document.addEventListener("parts:added", (event) => enhanceAll(event.target));
