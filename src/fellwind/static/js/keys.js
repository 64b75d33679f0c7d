// Single-letter keys, the units switch that loses nothing, dialogs and folds.
// Loaded before the page is drawn and not as a module: a key pressed the moment a page shows must find its listener.

const csrf = () => document.body.dataset.csrf;
const typing = (element) => element.matches("input:not([type=checkbox]):not([type=radio]), textarea, select, [contenteditable]");
const DRAFT = "fellwind-draft:";

function openFold(id) {
  const fold = document.getElementById(id);
  if (!fold) return;
  fold.open = true;
  fold.querySelector("input:not([type=hidden]), select")?.focus();
}

function act(element) {
  if (element.matches("input")) { element.focus(); element.select(); return; }
  if (element.matches("summary")) { openFold(element.parentElement.id); return; }
  element.dispatchEvent(new MouseEvent("click", { bubbles: true, cancelable: true }));
}

document.addEventListener("keydown", (event) => {
  if (event.key === "Escape" && typing(event.target)) { event.target.blur(); return; }
  if (event.ctrlKey || event.metaKey || event.altKey || typing(event.target)) return;
  if (document.querySelector("dialog[open]")) return;
  const pencil = document.getElementById("pencil");
  if (event.key === "." && pencil?.dataset.again) {
    event.preventDefault();
    pencil.value = pencil.dataset.again;
    pencil.focus();
    return;
  }
  const stages = document.querySelectorAll(".stage-knots a");
  const digit = "12345678".indexOf(event.key);
  const target = digit >= 0 && event.key !== "" ? stages[digit] : document.querySelector(`[data-key="${CSS.escape(event.key)}"]`);
  if (!target) return;
  event.preventDefault();
  act(target);
});

document.addEventListener("click", (event) => {
  const opener = event.target.closest("[data-open]");
  if (opener) document.getElementById(opener.dataset.open)?.showModal();
  const fold = event.target.closest("[data-open-fold]");
  if (fold) openFold(fold.dataset.openFold);
  const clear = event.target.closest("[data-clear]");
  if (clear) { document.getElementById(clear.dataset.clear).replaceChildren(); document.getElementById("pencil")?.focus(); }
});

document.addEventListener("htmx:afterSwap", (event) => {
  event.target.querySelector("[data-autofocus]")?.focus();
});

// Units: what is half typed is rewritten by the server and put back after the page has changed.
function fieldsToKeep() {
  return [...document.querySelectorAll("main form input:not([type=hidden]), main form select, main form textarea")]
    .filter((f) => f.name && f.type !== "password")
    .map((f) => ({
      key: `${f.form.getAttribute("action") ?? ""}#${f.name}`,
      name: f.name,
      kind: f.dataset.quantity ?? "",
      text: f.type === "checkbox" ? String(f.checked) : f.value,
      dirty: f.type === "checkbox" ? f.checked !== f.defaultChecked : f.matches("select") ? ![...f.options].every((o) => o.selected === o.defaultSelected) : f.value !== f.defaultValue,
    }))
    .filter((f) => f.dirty);
}

document.addEventListener("submit", async (event) => {
  if (!event.target.matches("[data-units]")) return;
  const kept = fieldsToKeep();
  if (kept.length === 0) return;
  event.preventDefault();
  const body = new URLSearchParams({ typed: JSON.stringify(kept.map((f) => ({ name: f.key, kind: f.kind, text: f.text }))) });
  const answer = await fetch(event.target.action, { method: "POST", body, headers: { Accept: "application/json", "X-CSRFToken": csrf() } });
  const { typed } = await answer.json();
  sessionStorage.setItem(DRAFT + location.pathname, JSON.stringify(typed));
  location.reload();
});

document.addEventListener("DOMContentLoaded", () => {
  const draft = sessionStorage.getItem(DRAFT + location.pathname);
  if (draft) {
    sessionStorage.removeItem(DRAFT + location.pathname);
    const texts = new Map(JSON.parse(draft).map((f) => [f.name, f.text]));
    for (const f of document.querySelectorAll("main form input:not([type=hidden]), main form select, main form textarea")) {
      const text = texts.get(`${f.form.getAttribute("action") ?? ""}#${f.name}`);
      if (text === undefined) continue;
      if (f.type === "checkbox") f.checked = text === "true"; else f.value = text;
      const fold = f.closest("details");
      if (fold) fold.open = true;
    }
  }

  // Forms opened by an error show their first wrong field.
  document.querySelector(".wrong input, .wrong select")?.focus();
});
