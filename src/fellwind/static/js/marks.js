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

if (root) {
  note();
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
