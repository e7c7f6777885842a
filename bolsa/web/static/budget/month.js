// The month's fields of what is placed: the arrow keys add or take a step as arithmetic, so that one sees what will be kept.
const STEP = 10;
const STEPPED = /^(.*?)(?:\s*([+−-])\s*(\d+))?$/;

document.addEventListener("keydown", (event) => {
  const cell = event.target.matches && event.target.matches("[data-step]") ? event.target : null;
  const up = { ArrowUp: 1, ArrowDown: -1 }[event.key];
  if (cell && event.key === "Escape") { cell.value = cell.defaultValue; return; }
  if (!cell || !up) return;
  event.preventDefault();
  const [, base, sign, steps] = STEPPED.exec(cell.value.trim()) || [null, cell.value, "", ""];
  const by = Number(steps || 0) * (sign && sign !== "+" ? -1 : 1) + up * (event.shiftKey ? 1 : STEP);
  cell.value = by ? `${base}${by < 0 ? "−" : "+"}${Math.abs(by)}` : base;
}, true);
