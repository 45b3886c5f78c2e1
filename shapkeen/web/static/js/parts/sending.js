// @ts-check
// Shows how much of an upload has been sent. Needs: form[data-sending] with a progress element.
document.addEventListener("htmx:xhr:progress", function (event) {
  const form = event.target.closest("[data-sending]");
  const { loaded, total, lengthComputable } = event.detail;
  if (!form || !lengthComputable || total < 100000) return;
  const bar = form.querySelector("progress");
  bar.hidden = false;
  bar.value = (100 * loaded) / total;
  const words = form.querySelector("[data-sent]");
  const mega = (bytes) => (bytes / 1e6).toFixed(1);
  words.textContent = loaded < total
    ? `${mega(loaded)} of ${mega(total)} MB sent`
    : "sent; reading the file";
});
// An upload that is refused is answered with a page of its own; its words belong beside the form.
document.addEventListener("htmx:responseError", function (event) {
  const form = event.target.closest("[data-sending]");
  if (!form) return;
  const page = new DOMParser().parseFromString(event.detail.xhr.responseText, "text/html");
  const told = page.querySelector("[role=alert]");
  form.querySelector("[data-sent]").textContent = told ? told.textContent : "That was not taken. Nothing was kept.";
});
document.addEventListener("htmx:sendError", function (event) {
  const form = event.target.closest("[data-sending]");
  if (form) form.querySelector("[data-sent]").textContent = "The connection broke. Nothing was kept; send it again.";
});
