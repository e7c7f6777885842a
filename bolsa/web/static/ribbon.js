// The ribbon of months can be dragged: the month under the pointer is taken when it is let go.
import { one } from "./page.js";

let dragFrom = null;
document.addEventListener("pointerdown", (event) => { dragFrom = event.target.closest("[data-ribbon] a"); });
document.addEventListener("pointerup", (event) => {
  const cell = document.elementFromPoint(event.clientX, event.clientY)?.closest("[data-ribbon] a");
  if (dragFrom && cell && cell !== dragFrom) cell.click();
  dragFrom = null;
});

// On a narrow screen the ribbon is longer than the page: the chosen month is brought into sight.
const ribbon = one("[data-ribbon]"), chosen = one("[data-ribbon] [aria-current]");
if (ribbon && chosen) ribbon.scrollLeft = chosen.offsetLeft - ribbon.clientWidth / 2;
