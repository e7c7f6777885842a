// A picture says the value under the pointer, and, by the arrow keys, the one before and after; Enter follows where a mark leads.
function show(picture, mark) {
  picture.querySelectorAll(".mark[data-here]").forEach((other) => other.removeAttribute("data-here"));
  if (!mark) return;
  mark.setAttribute("data-here", "");
  picture.querySelector(".readout").textContent = mark.dataset.words;
}
document.addEventListener("pointerover", (event) => {
  const mark = event.target.closest?.(".mark");
  if (mark) show(mark.closest("[data-picture]"), mark);
});
document.addEventListener("keydown", (event) => {
  if (!event.target.matches?.("[data-picture]")) return;
  const marks = [...event.target.querySelectorAll(".mark")], at = marks.findIndex((mark) => mark.hasAttribute("data-here"));
  if (!marks.length) return;
  const to = { ArrowRight: at + 1, ArrowLeft: at < 0 ? marks.length - 1 : at - 1, Home: 0, End: marks.length - 1 }[event.key];
  if (to !== undefined) {
    event.preventDefault();
    const mark = marks[Math.max(0, Math.min(marks.length - 1, to))];
    show(event.target, mark);
    mark.scrollIntoView({ block: "nearest", inline: "nearest" });
  } else if (event.key === "Enter" && at >= 0 && marks[at].querySelector("a")) {
    event.preventDefault();
    event.stopPropagation();
    location.href = marks[at].querySelector("a").getAttribute("href");
  }
}, true);

// Where a picture is wider than the screen, the value that is said below it is in sight.
function turnToFirst() {
  document.querySelectorAll("[data-picture][data-first]").forEach((picture) => {
    const said = [...picture.querySelectorAll(".mark")].at(picture.dataset.first)?.getBoundingClientRect();
    const beyond = said ? said.right - picture.getBoundingClientRect().right : 0;
    picture.removeAttribute("data-first");
    if (beyond > 0) picture.scrollLeft += beyond + 12;
  });
}
turnToFirst();
document.addEventListener("htmx:afterSettle", turnToFirst);
