// A picker takes the place of a long select: any letters find, arrows walk, Enter takes, a new one is made in place.
// The select stays below it and is what the form sends; without script it is all there is.
"use strict";
(() => {
  let count = 0;

  function enhance(select) {
    if (select.dataset.picked) return;
    select.dataset.picked = "yes";
    count += 1;
    const box = document.createElement("span"), input = document.createElement("input"), list = document.createElement("ul");
    box.className = `picker ${select.className}`;
    const label = select.getAttribute("aria-label") || (select.labels[0] ? [...select.labels[0].childNodes].filter((n) => n !== select).map((n) => n.textContent).join(" ").trim() : "");
    Object.assign(input, { type: "text", autocomplete: "off", placeholder: select.options[0] && !select.options[0].value ? select.options[0].textContent : "" });
    for (const [name, value] of Object.entries({ role: "combobox", "aria-label": label, "aria-expanded": "false", "aria-autocomplete": "list", "aria-controls": `picked-${count}` })) input.setAttribute(name, value);
    if (select.getAttribute("aria-invalid")) input.setAttribute("aria-invalid", "true");
    list.id = `picked-${count}`;
    list.setAttribute("role", "listbox");
    list.setAttribute("aria-label", label);
    list.hidden = true;
    for (const name of ["other", "open"]) if (name in select.dataset) { input.dataset[name] = ""; delete select.dataset[name]; }
    select.before(box);
    box.append(input, list, select);
    select.hidden = true;
    const show = () => { const chosen = select.selectedOptions[0]; input.value = chosen && chosen.value ? chosen.textContent.trim() : ""; };
    show();
    let rows = [], at = 0;

    const close = () => { list.hidden = true; input.setAttribute("aria-expanded", "false"); input.removeAttribute("aria-activedescendant"); };
    const mark = () => {
      rows.forEach((row, i) => row.item.setAttribute("aria-selected", i === at ? "true" : "false"));
      if (rows[at]) { input.setAttribute("aria-activedescendant", rows[at].item.id); rows[at].item.scrollIntoView({ block: "nearest" }); }
    };
    function add(words, note, take) {
      const item = document.createElement("li"), name = document.createElement("span");
      item.setAttribute("role", "option");
      item.id = `${list.id}-${rows.length}`;
      name.textContent = words;
      item.append(name);
      if (note) { const quiet = document.createElement("span"); quiet.className = "quiet"; quiet.textContent = note; item.append(quiet); }
      item.addEventListener("mousedown", (event) => { event.preventDefault(); take(); });
      list.append(item);
      rows.push({ item, take });
    }
    function take(value, andSend) {
      select.value = value;
      show();
      close();
      select.dispatchEvent(new Event("change", { bubbles: true }));
      if (andSend && "sendOnPick" in select.dataset && value) select.form.requestSubmit(select.form.querySelector("button"));
    }
    function open(typed) {
      const words = typed.toLowerCase().split(/\s+/).filter(Boolean), seen = new Set();
      rows = [];
      list.replaceChildren();
      for (const option of select.options) {
        const group = option.parentElement.label || "", text = option.textContent.trim();
        const fits = words.every((word) => text.toLowerCase().includes(word) || group.toLowerCase().includes(word));
        if (!fits || seen.has(option.value) || (!option.value && words.length)) continue;
        seen.add(option.value);
        add(text, group, () => take(option.value, true));
      }
      const begins = (row) => (row.item.firstChild.textContent.toLowerCase().startsWith(words[0] || "") ? 0 : 1);
      if (words.length) { rows.sort((a, b) => begins(a) - begins(b)); rows.forEach((row) => list.append(row.item)); }
      if (select.dataset.make && typed.trim() && !rows.some((row) => row.item.firstChild.textContent.toLowerCase() === typed.trim().toLowerCase())) {
        add(`Make “${typed.trim()}”…`, "a new one", () => chooseGroup(typed.trim()));
      }
      if (!rows.length) { const none = document.createElement("li"); none.className = "quiet"; none.textContent = "Nothing has these letters."; list.append(none); }
      at = 0;
      list.hidden = false;
      input.setAttribute("aria-expanded", "true");
      mark();
    }
    function chooseGroup(name) {
      const groups = [...new Set([...select.querySelectorAll("optgroup")].map((group) => group.label))].filter((group) => group !== "Lately");
      rows = [];
      list.replaceChildren();
      groups.forEach((group) => add(group, `put “${name}” here`, () => make(name, group)));
      at = 0;
      mark();
    }
    async function make(name, group) {
      const token = document.querySelector("input[name=csrf_token]").value;
      const body = new URLSearchParams({ name, group, csrf_token: token });
      const reply = await fetch(select.dataset.make, { method: "POST", body });
      const made = await reply.json();
      if (!reply.ok) { list.replaceChildren(Object.assign(document.createElement("li"), { className: "wrong", textContent: made.sentence })); return; }
      select.append(new Option(made.name, made.id));
      take(String(made.id), true);
    }
    input.addEventListener("focus", () => input.select());
    input.addEventListener("input", () => open(input.value));
    input.addEventListener("click", () => { if (list.hidden) open(""); });
    input.addEventListener("blur", () => { close(); show(); });
    input.addEventListener("keydown", (event) => {
      if (event.key === "ArrowDown" || event.key === "ArrowUp") {
        event.preventDefault();
        if (list.hidden) { open(""); return; }
        at = Math.max(0, Math.min(rows.length - 1, at + (event.key === "ArrowDown" ? 1 : -1)));
        mark();
      } else if (!list.hidden && rows.length && (event.key === "Enter" || (event.key === "Tab" && input.value.trim()))) {
        if (event.key === "Enter") event.preventDefault();
        rows[at].take();
      } else if (event.key === "Escape" && !list.hidden) {
        event.stopPropagation();
        close();
        show();
      }
    });
    select.addEventListener("change", show);
    select.form?.addEventListener("reset", () => setTimeout(show));
  }

  const enhanceAll = (within) => within.querySelectorAll?.("select[data-picker]").forEach(enhance);
  document.addEventListener("DOMContentLoaded", () => enhanceAll(document));
  document.addEventListener("htmx:afterSwap", (event) => enhanceAll(event.target.isConnected ? event.target.parentElement || document : document));
  document.addEventListener("parts:added", (event) => enhanceAll(event.target));
})();
