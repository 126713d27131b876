// Values of a chart under the pointer, or by the arrow keys once it has the focus: a slider along its axis.
(() => {
  "use strict";
  const SVG = "http://www.w3.org/2000/svg";

  const chartOf = (event) => event.target.closest?.("[data-readout]");
  const asked = (box) => (box.stops ??= JSON.parse(box.dataset.readout));

  function element(name, kind, attributes) {
    const made = document.createElementNS(SVG, name);
    made.setAttribute("class", kind);
    Object.entries(attributes).forEach(([key, value]) => made.setAttribute(key, value));
    return made;
  }

  function show(box, place) {
    const { top, bottom, stops } = asked(box);
    const at = Math.max(0, Math.min(stops.length - 1, place));
    const [x, says, dots] = stops[at];
    const svg = box.querySelector("svg");
    svg.querySelector(".readout-at")?.remove();
    const group = element("g", "readout-at", { "aria-hidden": "true" });
    group.append(element("path", "readout-line", { d: `M${x} ${top}V${bottom}` }));
    dots.forEach(([y, kind]) => group.append(element("circle", `readout-dot chart-${kind}`, { cx: x, cy: y, r: 4.5 })));
    svg.append(group);
    box.setAttribute("aria-valuenow", at);
    box.setAttribute("aria-valuetext", says);
    box.querySelector(".readout-says").textContent = says;
  }

  function hide(box) {
    box.querySelector(".readout-at")?.remove();
    box.querySelector(".readout-says").textContent = "";
  }

  function offer() {
    document.querySelectorAll("[data-readout]:not([role])").forEach((box) => {
      const last = asked(box).stops.length - 1;
      const given = {
        role: "slider", tabindex: 0, "aria-label": `Values of the chart. ${box.dataset.name}`,
        "aria-valuemin": 0, "aria-valuemax": last, "aria-valuenow": 0, "aria-valuetext": asked(box).stops[0][1],
      };
      Object.entries(given).forEach(([key, value]) => box.setAttribute(key, value));
      const says = document.createElement("p");
      says.className = "readout-says";
      says.setAttribute("aria-hidden", "true");
      box.append(says);
    });
  }

  function nearest(box, event) {
    const svg = box.querySelector("svg");
    const frame = svg.getBoundingClientRect();
    const x = ((event.clientX - frame.left) / frame.width) * svg.viewBox.baseVal.width;
    const far = asked(box).stops.map(([at]) => Math.abs(at - x));
    return far.indexOf(Math.min(...far));
  }

  function point(event) {
    const box = chartOf(event);
    if (box?.hasAttribute("role")) show(box, nearest(box, event));
  }
  document.addEventListener("pointermove", point);
  document.addEventListener("pointerdown", point);
  document.addEventListener("pointerout", (event) => {
    const box = chartOf(event);
    if (box?.hasAttribute("role") && !box.contains(event.relatedTarget) && box !== document.activeElement) hide(box);
  });

  document.addEventListener("keydown", (event) => {
    const box = event.target.matches?.("[data-readout]") ? event.target : null;
    if (!box || event.ctrlKey || event.metaKey || event.altKey) return;
    const now = Number(box.getAttribute("aria-valuenow"));
    const last = asked(box).stops.length - 1;
    const to = {
      ArrowRight: now + 1, ArrowUp: now + 1, ArrowLeft: now - 1, ArrowDown: now - 1,
      PageUp: now + 5, PageDown: now - 5, Home: 0, End: last,
    }[event.key];
    if (to === undefined) return;
    event.preventDefault();
    show(box, to);
  });
  document.addEventListener("focusin", (event) => {
    if (event.target.matches?.("[data-readout][role]")) show(event.target, Number(event.target.getAttribute("aria-valuenow")));
  });
  document.addEventListener("focusout", (event) => {
    if (event.target.matches?.("[data-readout][role]")) hide(event.target);
  });

  document.addEventListener("DOMContentLoaded", offer);
  document.addEventListener("htmx:afterSettle", offer);
})();
