// A page as its reader meets it: a line for each block, fields with what stands in them, nothing that is hidden.
(selector) => {
  const SKIP = "script, style, template, datalist, noscript, title, progress, kbd, .visually-hidden, .skip, .brand, .rail";
  const ONE_LINE = "label, button, a, summary, p, legend, h1, h2, h3, dt, td, th, .tag-input, .big, .tap-row, .choices";
  const lines = [];
  let line = "";
  const flush = () => {
    const says = line.replace(/\s+/g, " ").trim();
    if (says) lines.push(says);
    line = "";
  };
  const field = (el) => {
    if (el.type === "hidden" || el.type === "file") return "";
    if (el.type === "checkbox" || el.type === "radio") return el.checked ? " (x) " : " ( ) ";
    if (el.localName === "select") return ` <${el.selectedOptions[0] ? el.selectedOptions[0].textContent.trim() : ""}> `;
    return el.value ? ` <${el.value}> ` : ` <___${el.placeholder ? ` ${el.placeholder}` : ""}> `;
  };
  const picture = (el) => {
    const words = Array.from(el.querySelectorAll("text"), (t) => t.textContent.replace(/\s+/g, " ").trim());
    const says = [el.getAttribute("aria-label"), ...words].filter(Boolean).join(" · ");
    return says ? ` (picture: ${says}) ` : "";
  };
  const walk = (el, inline) => {
    if (el.nodeType === Node.TEXT_NODE) {
      line += el.textContent;
      return;
    }
    if (el.nodeType !== Node.ELEMENT_NODE || el.matches(SKIP) || el.hidden) return;
    const look = getComputedStyle(el);
    if (look.display === "none" || look.visibility === "hidden") return;
    if (["input", "select", "textarea"].includes(el.localName)) {
      line += field(el);
      return;
    }
    const isPicture = el.localName === "svg";
    const block = !inline && !/^(inline|contents)/.test(look.display);
    const pressed = el.matches("button, a.save, a.second, a.act");
    const closed = el.localName === "details" && !el.open;
    if (block) flush();
    else if (!/^(b|i|em|strong|span|sup|sub)$/.test(el.localName) || inline) line += " ";
    if (el.matches("td, th") && line.trim()) line += " | ";
    if (el.matches("summary")) line += closed || !el.parentElement.open ? "+ " : "- ";
    if (pressed) line += "[";
    if (isPicture) line += picture(el);
    else {
      for (const child of el.childNodes) {
        if (!closed || child.localName === "summary") walk(child, inline || el.matches(ONE_LINE) || el.localName === "tr");
      }
    }
    if (pressed) line += "]";
    if (block) flush();
  };
  walk(document.querySelector(selector) || document.body, false);
  flush();
  return lines;
}
