// A call that is open on two screens: what the other one did is shown within moments, without asking for it.
// Nobody is told while the page is hidden, and nothing that is being typed or pressed is ever taken away.
(function () {
  "use strict";

  let source = null, followed = "", pressed = null;

  function place() { return document.querySelector("[data-live]"); }

  function follow() {
    const here = place(), address = here && !document.hidden ? here.dataset.live : "";
    if (address === followed) return;
    if (source) source.close();
    source = null;
    followed = address;
    if (!address || !window.EventSource) return;
    source = new EventSource(address);
    source.addEventListener("changed", changed);
  }

  // a field that holds something its page did not come with, or that somebody is in
  function inHand() {
    const fields = Array.from(document.querySelectorAll("#page input, #page textarea, #page select"));
    return fields.some(function (field) {
      if (field.type === "hidden") return false;
      if (field.type === "radio" || field.type === "checkbox") return field.checked !== field.defaultChecked;
      if (field.tagName === "SELECT") {
        return Array.from(field.options).some(function (one) { return one.selected !== one.defaultSelected && one.defaultSelected; });
      }
      return field.value !== field.defaultValue;
    });
  }

  function changed(event) {
    const here = place();
    if (!here || Number(event.data) <= Number(here.dataset.version)) return;
    if (inHand() || document.querySelector(".htmx-request")) tell(here);
    else renew();
  }

  function renew() {
    const address = location.pathname + location.search;
    const at = window.scrollY;
    window.htmx.ajax("GET", address, { target: "body", swap: "innerHTML" }).then(function () { window.scrollTo(0, at); });
  }

  function tell(here) {
    here.hidden = false;
    if (here.querySelector("button")) return;
    const button = document.createElement("button");
    button.type = "button";
    button.className = "second";
    button.textContent = "Show it";
    button.addEventListener("click", function () { pressed = null; renew(); });
    here.append("Somebody else changed this call. ", button);
  }

  // What nobody asked for just now (the other's change, the next look of a meter) is not put in under a thumb that is
  // down: a press that ends on another button than it began on is lost.
  document.addEventListener("pointerdown", function (event) { pressed = event.target; }, true);
  ["pointerup", "pointercancel"].forEach(function (ends) {
    document.addEventListener(ends, function () { setTimeout(function () { pressed = null; }, 100); }, true);
  });
  document.addEventListener("htmx:beforeSwap", function (event) {
    const part = event.detail.target, asks = event.detail.requestConfig.elt, renewed = asks === document.body;
    if (!pressed || !part.contains(pressed) || !(renewed || asks.matches("[data-hx-trigger*='every']"))) return;
    event.detail.shouldSwap = false;
    if (renewed && place()) tell(place());
  });

  // a phone keeps letters, styles and scripts, and a page for when the laptop is gone; on the laptop itself nothing is
  const tag = new URL(document.currentScript.src).search.slice(1);
  if ("serviceWorker" in navigator && location.protocol === "https:") {
    navigator.serviceWorker.register("/service-worker.js?tag=" + tag).catch(function () { /* not trusted yet */ });
  }

  document.addEventListener("visibilitychange", follow);
  document.addEventListener("htmx:afterSettle", follow);
  document.addEventListener("DOMContentLoaded", follow);
  window.addEventListener("pagehide", function () { if (source) source.close(); source = null; followed = ""; });
  if (document.readyState !== "loading") follow();
})();
