// Behaviour on top of plain pages: shortcuts, the turns stepper, focus. No rule of the trade lives here.
(function () {
  "use strict";

  // Alpine comes with the first page that has a part of its own: its start is the longest task of a page. It reads
  // every global once; reading this one, which nothing here uses, is a deprecated call.
  const alpine = document.currentScript.src.replace("/app.js", "/vendor/alpine-csp.min.js");
  let alpineAsked = false;

  function alpineWhereNeeded() {
    if (alpineAsked || !document.querySelector("[data-x-data]")) return;
    alpineAsked = true;
    delete window.fence;
    const page = document.documentElement, script = document.createElement("script");
    page.classList.add("part-coming");
    script.onload = script.onerror = function () { page.classList.remove("part-coming"); };
    script.src = alpine;
    document.head.append(script);
  }

  document.addEventListener("alpine:init", function () {
    window.Alpine.prefix("data-x-");
    // a slider and its number field, each follows the other; the field is what is sent
    window.Alpine.data("slider", function () {
      return {
        slid() {
          this.$refs.typed.value = this.$refs.slide.value;
          this.$refs.typed.dispatchEvent(new Event("input", { bubbles: true }));
        },
        typed() { this.$refs.slide.value = this.$refs.typed.value; },
      };
    });
    // the bench: a lead is picked in the drawing, then the terminal it goes to; the list beside it is what counts
    window.Alpine.data("bench", function () {
      let picked = null;
      return {
        pick(event) {
          const lead = event.currentTarget;
          this.$root.querySelectorAll("[data-picked]").forEach(function (other) {
            other.removeAttribute("data-picked");
          });
          lead.setAttribute("data-picked", "");
          this.$root.classList.add("bench-picking");
          picked = lead.dataset.lead;
        },
        put(event) {
          if (picked === null) return;
          const all = Array.from(document.querySelectorAll("select[data-wire]"));
          const field = all.find(function (one) { return one.dataset.wire === picked; });
          field.value = event.currentTarget.dataset.terminal;
          picked = null;
          this.$root.classList.remove("bench-picking");
          this.$root.querySelectorAll("[data-picked]").forEach(function (other) {
            other.removeAttribute("data-picked");
          });
          field.dispatchEvent(new Event("input", { bubbles: true }));
        },
      };
    });
    // the hub in the section: dragged along the shaft in steps; its place is typed into the field,
    // the server draws anew
    window.Alpine.data("hub", function () {
      let from = null;
      return {
        along(event) {
          const here = new DOMPoint(event.clientX, event.clientY).matrixTransform(this.$root.getScreenCTM().inverse());
          return this.$root.dataset.along === "right" ? here.x : here.y;
        },
        grab(event) {
          from = this.along(event);
          this.$refs.hub.setPointerCapture(event.pointerId);
        },
        inches(event) {
          const data = this.$root.dataset, way = data.along === "up" ? -1 : 1;
          const moved = way * (this.along(event) - from) / parseFloat(data.scale), step = parseFloat(data.step);
          return Math.round((parseFloat(data.at) + moved) / step) * step;
        },
        move(event) {
          if (from === null) return;
          const data = this.$root.dataset, way = data.along === "up" ? -1 : 1;
          const by = way * (this.inches(event) - parseFloat(data.at)) * parseFloat(data.scale);
          const moved = data.along === "right" ? "translate(" + by + ",0)" : "translate(0," + by + ")";
          this.$refs.hub.setAttribute("transform", moved);
        },
        drop(event) {
          if (from === null) return;
          const field = document.getElementById("at");
          field.value = this.inches(event).toFixed(4).replace(/0+$/, "").replace(/\.$/, "");
          from = null;
          field.dispatchEvent(new Event("input", { bubbles: true }));
        },
      };
    });
  });

  let waitingForLetter = false;

  function typing(target) {
    return target.matches && target.matches("input:not([type=radio]):not([type=checkbox]), textarea, select");
  }

  function stepTo(letter) {
    const link = document.querySelector('.rail [data-letter="' + letter + '"]');
    if (link) link.click();
  }

  function armPower() {
    const button = document.querySelector(".strip-go");
    if (!button) return;
    button.classList.add("armed");
    button.focus();
    button.addEventListener("blur", function () { button.classList.remove("armed"); }, { once: true });
  }

  function follow(selector) {
    const link = document.querySelector(selector);
    if (link) link.click();
  }

  const acts = {
    "?": function () { follow('a[href="/help"]'); },
    "/": function () {
      const search = document.getElementById("search");
      if (search) search.focus();
    },
    n: function () { follow("#next-test"); },
    p: armPower,
    m: function () { follow("#take"); },
  };

  document.addEventListener("keydown", function (event) {
    if (event.key === "Escape") {
      if (typing(event.target)) event.target.blur();
      else if (history.length > 1) history.back();
      return;
    }
    if (document.getElementById("page").dataset.keys !== "on" || event.ctrlKey || event.metaKey) return;
    if (typing(event.target) && !event.altKey) return;
    const key = event.key.length === 1 ? event.key.toLowerCase() : "";
    if (waitingForLetter && key) {
      waitingForLetter = false;
      event.preventDefault();
      stepTo(key);
    } else if (key === "g") {
      waitingForLetter = true;
      event.preventDefault();
      setTimeout(function () { waitingForLetter = false; }, 2000);
    } else if (acts[key]) {
      event.preventDefault();
      acts[key]();
    }
  });

  // a page that was just shown: the field being worked in has the focus, the station is in sight
  function settle() {
    const here = document.querySelector(".rail [aria-current]");
    if (here && here.scrollIntoView && window.innerWidth <= 900) {
      here.scrollIntoView({ inline: "center", block: "nearest" });
    }
    const wrong = document.querySelector("[aria-invalid=true]");
    const field = wrong || (document.querySelector(".call #value"));
    const small = window.innerWidth <= 900;
    if (field && (wrong || !small)) field.focus({ preventScroll: !wrong });
    const pad = document.getElementById("pad");
    const news = ".saved, .bench-shows, .bench-warns, .bench-test .meter";
    if (small && pad && !wrong && (location.hash === "#pad" || pad.querySelector(news))) pad.scrollIntoView();
  }

  // a page that was told why nothing was saved: it sends the token of now when it is sent again
  document.addEventListener("htmx:afterSwap", function () {
    const now = document.querySelector("#told input[name=csrf]");
    if (now) document.querySelectorAll("input[name=csrf]").forEach(function (field) { field.value = now.value; });
  });

  // the turns through the clamp, one more or one fewer
  document.addEventListener("click", function (event) {
    const key = event.target.closest && event.target.closest("[data-turns]");
    if (!key) return;
    const turns = key.form.elements.turns;
    turns.value = Math.min(100, Math.max(1, (parseInt(turns.value, 10) || 1) + Number(key.dataset.turns)));
    [turns, key.form.querySelector("input[name=value]")].filter(Boolean).forEach(function (field) {
      field.dispatchEvent(new Event("input", { bubbles: true }));
    });
  });

  // a usual value tapped into its field; a photograph that is sent once it is chosen
  document.addEventListener("click", function (event) {
    const tap = event.target.closest && event.target.closest("[data-fill]");
    if (!tap) return;
    const field = document.getElementById(tap.dataset.fill);
    field.value = tap.dataset.text;
    field.dispatchEvent(new Event("input", { bubbles: true }));
  });
  document.addEventListener("change", function (event) {
    const form = event.target.type === "file" && event.target.closest("form[data-sends-itself]");
    if (form && event.target.files.length) form.requestSubmit();
  });
  // a doubtful reading that is corrected is meant to be saved
  document.addEventListener("input", function (event) {
    const row = event.target.type !== "checkbox" && event.target.closest(".read-list li");
    if (row) row.querySelector("input[type=checkbox]").checked = true;
  });

  alpineWhereNeeded();
  document.addEventListener("htmx:afterSettle", alpineWhereNeeded);
  document.addEventListener("DOMContentLoaded", settle);
  document.addEventListener("htmx:afterSettle", function (event) {
    if (event.detail.target === document.body) setTimeout(settle, 0); // after htmx has scrolled to the top
  });
})();
