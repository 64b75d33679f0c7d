// The marks: points on the ruler are dragged or stepped, buttons act, and earlier states of the form come back. The
// server does the reckoning; here are only the states that were, and where the pointer went.

const root = document.querySelector("[data-marks]");
let states = [];
let index = -1;
let focusAfter = null;

const form = () => document.getElementById("marks");
const state = () => [...new FormData(form()).entries()].filter(([name]) => !["csrfmiddlewaretoken", "form_id"].includes(name));

function note() {
  const now = JSON.stringify(state());
  if (states[index] !== now) {
    states = states.slice(0, index + 1);
    states.push(now);
    index = states.length - 1;
  }
  const [undo, redo] = [form().querySelector("[data-undo]"), form().querySelector("[data-redo]")];
  if (undo) undo.disabled = index <= 0;
  if (redo) redo.disabled = index >= states.length - 1;
}

function act(extra, from = state()) {
  const values = Object.fromEntries(from);
  const headers = { "X-CSRFToken": document.body.dataset.csrf };
  htmx.ajax("POST", root.dataset.marks, { target: "#marks", swap: "outerHTML", values: { ...values, ...extra }, headers });
}

function go(step) {
  const next = index + step;
  if (next < 0 || next >= states.length) return;
  index = next;
  act({ action: "show" }, JSON.parse(states[index]));
}

function pixels(svg, event) {
  return new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse()).y;
}

// The table is typed down like a sheet: Enter and Tab go down a column and on to the next, and what is pasted from a
// sheet fills from where it is pasted.
const columns = () => [...form().querySelectorAll("[data-sheet] table")].flatMap((table) => [0, 1].map((k) => (
  [...table.querySelectorAll("tbody tr")].map((row) => row.querySelectorAll("input.form-control")[k]))));

function typedDown(event) {
  const all = columns().flat();
  const next = all[all.indexOf(event.target) + (event.shiftKey ? -1 : 1)];
  if (!next && event.key === "Tab") return; // out of the table
  event.preventDefault();
  (next ?? event.target).focus();
  (next ?? event.target).select();
}

function pasted(event) {
  const cells = event.clipboardData.getData("text").replace(/\r/g, "").replace(/\n$/, "").split("\n").map((row) => row.split("\t"));
  if (cells.length === 1 && cells[0].length === 1) return;
  event.preventDefault();
  const all = columns();
  const across = all.findIndex((column) => column.includes(event.target));
  const down = all[across].indexOf(event.target);
  cells.forEach((row, r) => row.forEach((text, c) => {
    const field = all[across + c]?.[down + r];
    if (field && text.trim()) field.value = text.trim();
  }));
  event.target.dispatchEvent(new Event("change", { bubbles: true }));
}

if (root) {
  note();
  root.addEventListener("keydown", (event) => {
    if (["Enter", "Tab"].includes(event.key) && event.target.matches("[data-sheet] input.form-control")) typedDown(event);
  });
  root.addEventListener("paste", (event) => { if (event.target.matches("[data-sheet] input.form-control")) pasted(event); });
  document.addEventListener("change", (event) => { if (event.target.closest("#marks") && !event.target.matches("[data-place]")) note(); });
  document.addEventListener("htmx:afterSettle", () => {
    note();
    if (focusAfter) { document.querySelector(`[data-handle="${focusAfter}"]`)?.focus(); focusAfter = null; }
  });
  root.addEventListener("click", (event) => {
    if (event.target.closest("[data-undo]")) go(-1);
    else if (event.target.closest("[data-redo]")) go(1);
    else {
      const button = event.target.closest("[data-act]");
      if (!button) return;
      const extra = JSON.parse(button.dataset.act);
      if (button.dataset.with) extra.place = document.getElementById("place").value;
      act(extra);
    }
  });
  root.addEventListener("keydown", (event) => {
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z" && !event.target.matches("input[type=text]")) {
      event.preventDefault();
      go(event.shiftKey ? 1 : -1);
    }
    const handle = event.target.closest("[data-handle]");
    if (!handle || !["ArrowUp", "ArrowDown"].includes(event.key)) return;
    event.preventDefault();
    event.stopPropagation();
    focusAfter = handle.dataset.handle;
    act({ action: "step", name: handle.dataset.handle, nudge: event.key === "ArrowUp" ? "up" : "down" });
  });
  let held = null;
  root.addEventListener("pointerdown", (event) => {
    const handle = event.target.closest("[data-handle]");
    if (!handle) return;
    held = { handle, svg: handle.ownerSVGElement, from: pixels(handle.ownerSVGElement, event) };
    handle.focus();
    event.preventDefault();
  });
  document.addEventListener("pointermove", (event) => {
    if (held) held.handle.setAttribute("transform", `translate(0 ${pixels(held.svg, event) - held.from})`);
  });
  document.addEventListener("pointerup", (event) => {
    if (!held) return;
    const { handle, svg, from } = held;
    held = null;
    const dy = pixels(svg, event) - from;
    if (Math.abs(dy) < 1) { handle.removeAttribute("transform"); return; }
    focusAfter = handle.dataset.handle;
    act({ action: "drag", name: handle.dataset.handle, dy });
  });
}
