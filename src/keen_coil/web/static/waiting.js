// Readings typed while the connection is lost: kept in this browser, marked as waiting, sent once and in order.
// Each carries the id its page made, so that a repeat is harmless; the call's version is asked for before each.
(function () {
  "use strict";

  const KEY = "keen-coil-waiting";
  const EVERY_MS = 4000;
  let sending = false;

  function read() {
    try { return JSON.parse(localStorage.getItem(KEY)) || []; } catch (error) { return []; }
  }

  function write(list) {
    localStorage.setItem(KEY, JSON.stringify(list));
    show();
  }

  function newId() {
    const bytes = new Uint8Array(18);
    crypto.getRandomValues(bytes);
    return btoa(String.fromCharCode.apply(null, bytes)).replace(/\+/g, "-").replace(/\//g, "_");
  }

  function says(fields) {
    const of = new Map(fields);
    const get = function (name) { return of.get(name); };
    const where = ["at", "section", "pair", "lead", "speed"].map(get).filter(Boolean).join(" ").replace(/[_|]/g, " ");
    const values = ["value", "value_2", "value_3"].map(get);
    return [of.get("title") || of.get("kind"), where].concat(values).filter(Boolean).join(" ");
  }

  // the page for a lost connection says how many wait, and goes back to where it was once the laptop answers
  function away() {
    const line = document.getElementById("away-waiting");
    if (!line) return;
    const many = read().length;
    line.hidden = !many;
    line.querySelector("b").textContent = many + (many === 1 ? " reading is waiting" : " readings are waiting");
    const again = document.getElementById("away-again");
    again.href = location.pathname === "/away" ? "/" : location.href;
  }

  // the list of what waits, above the pad's form or at the top of the page
  function show() {
    const list = read();
    let box = document.getElementById("waiting");
    if (!list.length) {
      if (box) box.remove();
      return;
    }
    if (!box) {
      box = document.createElement("section");
      box.id = "waiting";
      box.className = "waiting";
      box.setAttribute("role", "status");
      const place = document.getElementById("pad-form") || document.querySelector("main h1");
      if (!place) return;
      place.before(box);
    }
    const head = document.createElement("p");
    head.textContent = list.length + (list.length === 1 ? " reading waits" : " readings wait") + " for the connection:";
    const rows = document.createElement("ol");
    list.forEach(function (one) {
      const row = document.createElement("li");
      row.textContent = says(one.fields) + (one.refused ? " - not taken: " + one.refused : "");
      if (one.refused) {
        const drop = document.createElement("button");
        drop.type = "button";
        drop.className = "second";
        drop.textContent = "Drop it";
        drop.addEventListener("click", function () {
          write(read().filter(function (other) { return other.id !== one.id; }));
        });
        row.append(drop);
      }
      rows.append(row);
    });
    box.replaceChildren(head, rows);
  }

  function keep(form, parameters) {
    const fields = Array.from(parameters.entries()).filter(function (pair) { return typeof pair[1] === "string"; });
    const id = new Map(fields).get("act_id");
    const list = read();
    if (list.some(function (one) { return one.id === id; })) return;
    fields.push(["typed_at", new Date().toISOString()]);
    list.push({ id: id, action: form.getAttribute("action"), fields: fields });
    write(list);
    const again = form.querySelector("input[name=act_id]");
    if (again) again.value = newId();
    const value = form.querySelector("#value");
    if (value) { value.value = ""; value.focus(); }
  }

  function field(text, name) {
    const page = new DOMParser().parseFromString(text, "text/html");
    const found = page.querySelector("#pad-form input[name=" + name + "], main form input[name=" + name + "]");
    return found ? found.value : "";
  }

  async function post(one, version, csrf) {
    const ours = function (pair) { return pair[0] !== "version" && pair[0] !== "csrf"; };
    const body = new URLSearchParams(one.fields.filter(ours));
    body.append("version", version);
    body.append("csrf", csrf);
    return fetch(one.action, { method: "POST", body: body, credentials: "same-origin" });
  }

  async function sendOne(one) {
    const page = await fetch(one.action.replace(/\/readings$/, "/path"), { credentials: "same-origin" });
    if (!page.ok) throw new Error("the page is not there");
    const text = await page.text();
    const answer = await post(one, field(text, "version"), field(text, "csrf"));
    if (answer.status >= 500 || answer.status === 409 || answer.status === 401) throw new Error("later");
    if (answer.ok) return "";
    const refused = new DOMParser().parseFromString(await answer.text(), "text/html");
    const told = refused.querySelector(".fault, .error-line, .misfit strong");
    return told ? told.textContent.trim() : "look at it on the pad";
  }

  async function send() {
    if (sending || !read().some(function (one) { return !one.refused; })) return;
    sending = true;
    let sent = false;
    try {
      for (let one = next(); one; one = next()) {
        const refused = await sendOne(one);
        const list = read();
        const at = list.findIndex(function (other) { return other.id === one.id; });
        if (at >= 0 && refused) list[at].refused = refused;
        else if (at >= 0) list.splice(at, 1);
        write(list);
        sent = sent || !refused;
      }
    } catch (error) {
      // still no connection: tried again
    }
    sending = false;
    if (sent && !read().length && document.getElementById("pad-form")) location.reload();
  }

  function next() {
    return read().find(function (one) { return !one.refused; });
  }

  document.addEventListener("htmx:sendError", function (event) {
    const form = event.detail.elt;
    if (!form || form.id !== "pad-form" || !/\/calls\/\d+\/readings$/.test(form.getAttribute("action"))) return;
    if (event.detail.pathInfo && !/\/readings$/.test(event.detail.pathInfo.requestPath)) return;
    keep(form, event.detail.requestConfig.formData || new FormData(form));
  });

  // anything else that could not be sent: the page stays as it is, and says so
  document.addEventListener("htmx:sendError", function (event) {
    const form = event.detail.elt, told = document.getElementById("told");
    if (!told || event.detail.target !== document.body || form.id === "pad-form") return;
    const line = document.createElement("p");
    line.className = "told-head";
    line.textContent = form.tagName === "FORM"
      ? "No connection, so nothing was saved. What you typed is still here: save it when the connection is back."
      : "No connection. This page is still here; try again when it is back.";
    told.replaceChildren(line);
    told.scrollIntoView();
  });
  window.addEventListener("online", send);
  document.addEventListener("DOMContentLoaded", function () { show(); away(); send(); });
  document.addEventListener("htmx:afterSettle", function () { show(); });
  setInterval(send, EVERY_MS);
})();
