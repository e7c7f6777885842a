// What every module asks of a page.
export const one = (selector, within = document) => within.querySelector(selector);
export const all = (selector, within = document) => [...within.querySelectorAll(selector)];
export const isTyping = (target) => target.closest("input:not([type=checkbox]), select, textarea, [contenteditable]");

export function press(selector, within = document) {
  const found = one(selector, within);
  if (found) found.click();
  return Boolean(found);
}
