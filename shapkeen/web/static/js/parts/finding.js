// @ts-check
// Finds words in the outline of a file: shows the parts and fields that hold them, unfolded.
// Needs: [data-part] details with [data-field] rows; data-opened marks what stands open at rest.
document.addEventListener("alpine:init", function () {
  Alpine.data("finding", function () {
    return {
      wanted: "",
      told: "",
      init() {
        this.told = `${this.$root.querySelectorAll("[data-field]").length} fields`;
        document.addEventListener("keydown", (event) => {
          const typing = event.target.closest("input, textarea, select");
          if (event.key === "/" && !typing) {
            document.getElementById("find").focus();
            event.preventDefault();
          }
        });
      },
      find() {
        const words = this.wanted.toLowerCase().split(/\s+/).filter(Boolean);
        const holds = (text) => words.every((word) => text.toLowerCase().includes(word));
        let found = 0;
        const rows = this.$root.querySelectorAll("[data-field]");
        rows.forEach((row) => {
          row.hidden = words.length > 0 && !holds(row.textContent);
          found += row.hidden ? 0 : 1;
        });
        // Inner parts come after outer ones: from the last one on, each knows its inner ones.
        const parts = [...this.$root.querySelectorAll("[data-part]")].reverse();
        parts.forEach((part) => {
          const named = words.length > 0 && holds(part.querySelector("summary").textContent);
          const inside = part.querySelector("[data-field]:not([hidden]), [data-part]:not([hidden])");
          part.hidden = words.length > 0 && !named && !inside;
          part.open = words.length > 0 ? Boolean(inside) : part.hasAttribute("data-opened");
        });
        // What is found would else begin below the fold.
        if (words.length) this.$root.scrollIntoView({ block: "start" });
        this.told = words.length ? `${found} of ${rows.length} fields` : `${rows.length} fields`;
      },
    };
  });
});
