// @ts-check
// Dropping: files or folders let fall anywhere are sent one after another; then the page of arrived files opens.
// Needs: #dropping (a dialog) with data-send, data-then and data-endings; [data-send-files] choose them by keyboard.
(function () {
  const holds = (event) => [...(event.dataTransfer?.types || [])].includes("Files");

  // All files below an entry: of a folder the browser tells a hundred at a time.
  async function filesOf(entry, folder) {
    if (entry.isFile) {
      const file = await new Promise((resolve, reject) => entry.file(resolve, reject));
      return [[file, folder + file.name]];
    }
    const reader = entry.createReader(), found = [];
    for (;;) {
      const some = await new Promise((resolve, reject) => reader.readEntries(resolve, reject));
      if (!some.length) return found;
      for (const one of some) found.push(...await filesOf(one, `${folder}${entry.name}/`));
    }
  }
  async function dropped(transfer) {
    const entries = [...transfer.items].map((item) => item.webkitGetAsEntry?.()).filter(Boolean);
    if (!entries.length) return [...transfer.files].map((file) => [file, file.name]);
    return (await Promise.all(entries.map((entry) => filesOf(entry, "")))).flat();
  }

  function sendOne(dialog, file, name, tell) {
    return new Promise((resolve) => {
      const request = new XMLHttpRequest(), form = new FormData();
      form.append("name", name);
      form.append("file", file, file.name);
      request.open("POST", dialog.dataset.send);
      request.setRequestHeader("X-CSRFToken", JSON.parse(document.body.getAttribute("hx-headers"))["X-CSRFToken"]);
      request.upload.onprogress = (event) => { if (event.lengthComputable) tell(event.loaded / event.total); };
      request.onload = () => resolve(request.status === 204 ? "" : (request.getResponseHeader("Content-Type") || "").startsWith("text/plain") ? request.responseText : "That was not taken.");
      request.onerror = () => resolve("The connection broke.");
      const stop = () => { if (!dialog.open) request.abort(); }; // an earlier closing may be told of late
      dialog.addEventListener("close", stop);
      request.onloadend = () => dialog.removeEventListener("close", stop);
      request.send(form);
    });
  }

  async function send(found) {
    const dialog = document.getElementById("dropping"), words = dialog.querySelector("[data-words]"), bar = dialog.querySelector("progress");
    const endings = dialog.dataset.endings.split(" "), list = dialog.querySelector("ul");
    const pictures = found.filter(([, name]) => endings.some((ending) => name.toLowerCase().endsWith(ending)));
    list.replaceChildren();
    if (!dialog.open) dialog.showModal();
    let kept = 0, refused = 0;
    for (const [number, [file, name]] of pictures.entries()) {
      words.textContent = `Sending ${file.name}, ${number + 1} of ${pictures.length}`;
      const why = await sendOne(dialog, file, name, (share) => { bar.value = (100 * (number + share)) / pictures.length; });
      if (!dialog.open) return;
      if (!why) { kept += 1; continue; }
      refused += 1;
      list.append(Object.assign(document.createElement("li"), { textContent: `${file.name}: ${why}` }));
    }
    const left = found.length - pictures.length;
    if (kept && !refused) { location.assign(dialog.dataset.then); return; }
    words.textContent = kept ? `${kept} of ${pictures.length} came in.` : left ? "No picture file is among them." : "Nothing came in.";
    dialog.querySelector("[data-then-link]").hidden = !kept;
  }

  document.addEventListener("dragover", (event) => {
    if (!holds(event) || !document.getElementById("dropping")) return;
    event.preventDefault();
    document.body.toggleAttribute("data-dropping", true);
  });
  document.addEventListener("dragleave", (event) => { if (!event.relatedTarget) document.body.removeAttribute("data-dropping"); });
  document.addEventListener("drop", (event) => {
    document.body.removeAttribute("data-dropping");
    if (!holds(event) || !document.getElementById("dropping") || event.target.closest("input[type=file]")) return;
    event.preventDefault();
    dropped(event.dataTransfer).then(send);
  });
  document.addEventListener("change", (event) => {
    const chosen = event.target.closest("[data-send-files]");
    if (!chosen) return;
    send([...chosen.files].map((file) => [file, file.webkitRelativePath || file.name]));
    chosen.value = "";
  });
})();
