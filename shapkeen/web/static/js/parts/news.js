// @ts-check
// News: asks what ended or was done meanwhile, and tells it where somebody looks elsewhere: in the window's title and
// mark, and by the browser where that was allowed. Needs: #news (a link) with data-tell, and the marks' addresses by verdict; link[rel=icon].
(function () {
  const EVERY_MS = 8000, link = () => document.getElementById("news"), icon = () => document.querySelector("link[rel=icon]");
  const own = { title: document.title, mark: icon().href };
  let after = "", timer = null;

  // The worst verdict of several is the one that is shown.
  const WORST = ["lost", "bent", "unproven", "kept", "done"];

  function tell(fresh) {
    if (!document.hidden || !fresh.length) return;
    const mark = WORST.find((one) => fresh.some((told) => told.mark === one)) || "done";
    const one = fresh.find((told) => told.mark === mark) || fresh[0];
    document.title = `${one.words}: ${one.of}${fresh.length > 1 ? ` and ${fresh.length - 1} more` : ""}`;
    icon().href = link().dataset[mark];
    if (!("Notification" in window) || Notification.permission !== "granted") return;
    for (const told of fresh.slice(0, 4)) {
      const shown = new Notification(told.words, { body: told.of, tag: told.address });
      shown.onclick = () => { window.focus(); if (told.address) location.assign(told.address); };
    }
  }
  function ask() {
    clearTimeout(timer);
    fetch(`${link().dataset.tell}?after=${encodeURIComponent(after)}`, { headers: { Accept: "application/json" } })
      .then((answer) => (answer.ok ? answer.json() : null))
      .then((told) => {
        if (!told) return;
        after = told.now;
        link().querySelector("[data-count]").textContent = told.unseen >= told.most ? `${told.most}+` : told.unseen || "";
        tell(told.fresh);
      })
      .catch(() => null) // connection.js says that the server does not answer
      .finally(() => { timer = setTimeout(ask, EVERY_MS); });
  }
  document.addEventListener("DOMContentLoaded", () => {
    if (!link()) return;
    ask();
    const allow = document.querySelector("[data-news-allow]");
    if (!allow || !("Notification" in window) || Notification.permission !== "default") return;
    allow.hidden = false;
    allow.addEventListener("click", () => Notification.requestPermission().then(() => { allow.hidden = true; }));
  });
  document.addEventListener("visibilitychange", () => {
    if (document.hidden) { own.title = document.title; return; }
    document.title = own.title;
    icon().href = own.mark;
  });
})();
