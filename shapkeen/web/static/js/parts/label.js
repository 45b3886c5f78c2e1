// @ts-check
// Label: words on a canvas, on a ground of their own.
// window.skLabel → {width(pen, text, size), draw(pen, styles, text, x, y, size)}; x, y: of the words' left end and line.
window.skLabel = {
  width(pen, text, size = 13) {
    pen.font = `${size}px "Plex Mono", monospace`;
    return pen.measureText(text).width;
  },
  draw(pen, styles, text, x, y, size = 13) {
    const wide = window.skLabel.width(pen, text, size);
    pen.fillStyle = styles.getPropertyValue("--sk-page");
    pen.fillRect(x - 4, y - size, wide + 8, size + 5);
    pen.fillStyle = styles.getPropertyValue("--sk-text");
    pen.fillText(text, x, y);
  },
};
