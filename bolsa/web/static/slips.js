// Slips: a figure opens its working right under it.
import { one } from "./page.js";

let slipOwner = null;

export function closeSlip() {
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
