// @ts-check
// Alternate: two pictures shown in turn by themselves; where less motion is asked for, by a press only.
// window.skAlternate(each, on, turn) → press(): each: ms; on(): whether pictures alternate now; turn(): shows the other one.
window.skAlternate = function (each, on, turn) {
  const calm = window.matchMedia("(prefers-reduced-motion: reduce)");
  setInterval(() => { if (!calm.matches && on()) turn(); }, each);
  return function press() {
    if (calm.matches && on()) turn();
  };
};
