// @ts-check
// Timecode: frames of a file as hh:mm:ss:ff and back (SMPTE ST 12-1, as core/geometry/timecode.py).
// window.skTimecode({frame, counted, drop}) → {at(n), frameOf(text)}: frame is that of the file's first.
window.skTimecode = function ({ frame: first, counted, drop }) {
  const each = drop ? counted / 15 : 0, minute = counted * 60 - each, ten = minute * 10 + each;
  const two = (n) => String(n).padStart(2, "0");
  function at(n) {
    let number = first + n;
    if (drop) number += each * (9 * Math.floor(number / ten) + Math.floor(Math.max((number % ten) - each, 0) / minute));
    const seconds = Math.floor(number / counted);
    return `${two(Math.floor(seconds / 3600) % 24)}:${two(Math.floor(seconds / 60) % 60)}:${two(seconds % 60)}${drop ? ";" : ":"}${two(number % counted)}`;
  }
  // A number is a frame of the file; hh:mm:ss:ff, read from its end, a timecode. Null for neither.
  function frameOf(text) {
    if (/^\d+$/.test(text.trim())) return Number(text);
    const parts = text.trim().split(/[:;.]/);
    if (parts.length < 2 || parts.length > 4 || !parts.every((part) => /^\d{1,3}$/.test(part))) return null;
    const [hours, minutes, seconds, frames] = [0, 0, 0, ...parts.map(Number)].slice(-4);
    const whole = hours * 60 + minutes;
    const number = (whole * 60 + seconds) * counted + frames - each * (whole - Math.floor(whole / 10));
    return number - first;
  }
  return { at, frameOf };
};
