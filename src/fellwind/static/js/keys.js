// Single-letter keys, the units switch that loses nothing, dialogs and folds.
// Loaded before the page is drawn and not as a module: a key pressed the moment a page shows must find its listener.

const csrf = () => document.body.dataset.csrf;
const typing = (element) => element.matches("input:not([type=checkbox]):not([type=radio]), textarea, select, [contenteditable]");
const DRAFT = "fellwind-draft";

function openFold(id) {
  const fold = document.getElementById(id);
  if (!fold) return;
  fold.open = true;
  fold.dataset.byHand = "1";
  fold.querySelector("input:not([type=hidden]), select")?.focus();
}

function act(element) {
  if (element.matches("input")) { element.focus(); element.select(); return; }
  if (element.matches("summary")) { openFold(element.parentElement.id); return; }
  element.dispatchEvent(new MouseEvent("click", { bubbles: true, cancelable: true }));
}

// The place of the newest key that had not come yet: a long page shows its head before its foot is there.
let early = null;
document.addEventListener("DOMContentLoaded", () => {
  const place = early && document.querySelector(early);
  if (place) act(place);
  else if (document.activeElement === document.body) document.querySelector("#main [data-autofocus]")?.focus();
});

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
  const stages = document.querySelectorAll(".stage-progress a");
  const digit = /^[1-9]$/.test(event.key) ? Number(event.key) - 1 : -1;
  const named = `[data-key="${CSS.escape(event.key)}"]`, target = digit >= 0 ? stages[digit] : document.querySelector(named);
  early = target || document.readyState !== "loading" ? null : named;
  if (!target) return;
  event.preventDefault();
  act(target);
});

document.addEventListener("click", (event) => {
  const summary = event.target.closest("summary");
  if (summary) summary.parentElement.dataset.byHand = "1"; // it is the maker who opens or shuts it
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

// A fold that was opened stays open when its part of the page is made anew.
const folds = (part) => [...part.querySelectorAll("details.fold")];
let unfolded = [];
document.addEventListener("htmx:beforeSwap", ({ detail }) => {
  unfolded = folds(detail.target).filter((d) => d.open).map((d) => d.querySelector("summary").textContent);
});
document.addEventListener("htmx:afterSwap", ({ detail }) => {
  for (const d of folds(detail.target)) if (unfolded.includes(d.querySelector("summary").textContent)) { d.open = true; d.dataset.byHand = "1"; }
});

// A part that is made anew takes the focus with it: it goes to the same field there, or to the part.
let focused = null;
document.addEventListener("htmx:beforeSwap", (event) => {
  const here = document.activeElement, part = event.detail.target;
  focused = part?.contains(here) && here !== document.body ? { part: part.id, id: here.id, name: here.getAttribute("name"), label: here.getAttribute("aria-label") } : null;
});
document.addEventListener("htmx:afterSettle", () => {
  if (!focused || (document.activeElement && document.activeElement !== document.body)) return;
  const part = document.getElementById(focused.part) ?? document.getElementById("main");
  const same = (focused.id && document.getElementById(focused.id)) || (focused.name && part.querySelector(`[name="${CSS.escape(focused.name)}"]`)) || (focused.label && part.querySelector(`[aria-label="${CSS.escape(focused.label)}"]`));
  if (same) same.focus();
  else { part.tabIndex = -1; part.focus(); }
  focused = null;
});

// Units: what is half typed is rewritten by the server and put back after the page has changed.
const FIELDS = ["input:not([type=hidden]):not([type=password]):not([type=file])", "select", "textarea"].map((f) => `main form ${f}`).join(", ");
const ticked = (f) => f.type === "checkbox" || f.type === "radio";
const leadsTo = (form) => new URL(form.getAttribute("action") ?? "", location.href).pathname;
const nameOf = (f) => `${leadsTo(f.form)}#${f.name}${f.type === "radio" ? "=" + f.value : ""}`;

const rewritten = new Map(); // what the last switch wrote, and what stood there before: there and back leaves it as it was typed

// What the server sent back as it was typed (data-typed) is no more kept than what has been typed since.
function changed(f) {
  if (f.closest("[data-typed]")) return true;
  if (ticked(f)) return f.checked !== f.defaultChecked;
  if (f.matches("select")) return ![...f.options].every((o) => o.selected === o.defaultSelected);
  return f.value !== f.defaultValue;
}

function fieldsToKeep() {
  return [...document.querySelectorAll(FIELDS)]
    .filter((f) => f.name && changed(f))
    .map((f) => ({ name: nameOf(f), kind: f.dataset.quantity ?? "", text: ticked(f) ? String(f.checked) : f.value }));
}

document.addEventListener("submit", async (event) => {
  if (!event.target.matches("[data-units]")) return;
  const kept = fieldsToKeep();
  if (kept.length === 0) return;
  event.preventDefault();
  const body = new URLSearchParams({ typed: JSON.stringify(kept) });
  const answer = await fetch(event.target.action, { method: "POST", body, headers: { Accept: "application/json", "X-CSRFToken": csrf() } });
  const { typed } = await answer.json();
  const rows = kept.map((now, k) => {
    const before = rewritten.get(now.name);
    return { name: now.name, text: before?.text === now.text ? before.was : typed[k]?.text ?? now.text, was: now.text };
  });
  sessionStorage.setItem(DRAFT, JSON.stringify(rows));
  location.replace(location.pathname + location.search);
});

document.addEventListener("DOMContentLoaded", () => {
  const draft = sessionStorage.getItem(DRAFT);
  if (draft) {
    sessionStorage.removeItem(DRAFT);
    const chosen = [];
    JSON.parse(draft).forEach((row) => rewritten.set(row.name, row));
    for (const f of document.querySelectorAll(FIELDS)) {
      const row = rewritten.get(nameOf(f));
      if (row === undefined) continue;
      if (ticked(f)) f.checked = row.text === "true"; else f.value = row.text;
      if (f.matches("select, [type=radio]:checked") && changed(f)) chosen.push(f);
      const fold = f.closest("details");
      if (fold) fold.open = true;
    }
    // What depends on a choice is asked for anew, once the page listens.
    window.addEventListener("load", () => chosen.forEach((f) => f.dispatchEvent(new Event("change", { bubbles: true }))));
  }

  // Forms opened by an error show their first wrong field.
  document.querySelector(".wrong input, .wrong select")?.focus();
});
