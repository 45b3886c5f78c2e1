// @ts-check
// Roomy: a canvas as large as the window allows, and the whole window by a key.
// window.skRoomy({root, canvas, below, draw}) → {resize(), toggle(), large}. below: gives the CSS pixels that stay free under the
// canvas, in the page and in the whole window. Escape gives the page back.
window.skRoomy = function ({ root, canvas, below, draw }) {
  const LEAST = 240, own = { large: false };
  own.resize = function () {
    const scale = window.devicePixelRatio || 1, place = canvas.getBoundingClientRect().top;
    const top = own.large ? place : place + window.scrollY;
    const high = Math.max(window.innerHeight - top - below()[own.large ? 1 : 0], LEAST);
    canvas.style.height = `${high}px`;
    canvas.width = Math.round(canvas.clientWidth * scale);
    canvas.height = Math.round(high * scale);
    draw();
  };
  own.toggle = function () {
    own.large = !own.large;
    root.toggleAttribute("data-large", own.large);
    own.resize();
    return own.large;
  };
  window.addEventListener("resize", own.resize);
  return own;
};
