// @ts-check
// Wheel: simulated time. The server tells what is seen then; where a link set the time, the wheel follows.
document.addEventListener("alpine:init", function () {
  Alpine.data("wheel", function () {
    return {
      follow() {
        const told = this.$root.querySelector("[data-wheel]"), wheel = this.$refs.wheel;
        if (!told || document.activeElement === wheel) return;
        wheel.value = told.dataset.wheel;
      },
    };
  });
});
