// @ts-check
// Tells when the server does not answer, asks until it does, and then does again what failed.
// Needs: #connection, hidden, in every page; data-alive on it. Says "sk:back" on the document.
window.skConnection = (function () {
  const EVERY_MS = 2000;
  let timer = null;
  const failed = new Map(); // element -> path of a part that was asked for
  function bar() { return document.getElementById("connection"); }
  function alive() {
    return fetch(bar().dataset.alive, { cache: "no-store" }).then((answer) => answer.ok).catch(() => false);
  }
  function lost() {
    if (timer) return;
    bar().hidden = false;
    timer = setInterval(() => alive().then((is) => { if (is) back(); }), EVERY_MS);
  }
  function back() {
    if (!timer) return;
    clearInterval(timer);
    timer = null;
    bar().hidden = true;
    for (const [element, path] of failed) {
      if (!element.isConnected) continue;
      const said = (name) => (element.closest(`[${name}]`) || element).getAttribute(name);
      window.htmx.ajax("GET", path, { source: element, target: said("hx-target") || element, swap: said("hx-swap") || "innerHTML" });
    }
    failed.clear();
    document.dispatchEvent(new CustomEvent("sk:back"));
  }
  // A promise that is kept once the server answers again.
  function returned() {
    lost();
    return new Promise((resolve) => document.addEventListener("sk:back", resolve, { once: true }));
  }
  // What a select shows is what the server last took.
  function take(root) {
    root.querySelectorAll("form[hx-get] select, form[hx-post] select").forEach((one) => { one.skTaken = one.value; });
  }
  document.addEventListener("DOMContentLoaded", () => take(document));
  document.addEventListener("htmx:afterSettle", () => take(document));
  function restore(event) {
    const form = event.target.closest && event.target.closest("form");
    if (form) form.querySelectorAll("select").forEach((one) => { if (one.skTaken !== undefined) one.value = one.skTaken; });
    return form;
  }
  document.addEventListener("htmx:sendError", (event) => {
    const form = restore(event), { verb, path } = event.detail.requestConfig;
    const polled = (event.target.getAttribute("hx-trigger") || "").includes("every");
    if (verb === "get" && !form && !polled) failed.set(event.target, path);
    lost();
  });
  document.addEventListener("htmx:responseError", restore);
  document.addEventListener("htmx:afterOnLoad", back);
  return { returned, alive };
})();
