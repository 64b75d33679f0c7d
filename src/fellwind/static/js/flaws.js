// The flaw map: touch an empty place to note a flaw there, drag a flaw or nudge it with the arrow keys, Enter to
// change it, Delete to strike it. Places go to the server as points of the picture; the server answers with the map.

const STEP = { ArrowLeft: "left", ArrowRight: "right", ArrowUp: "up", ArrowDown: "down", "+": "larger", "-": "smaller" };
let focusAfter = null;

function point(svg, event) {
  const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
  return { x: at.x.toFixed(2), y: at.y.toFixed(2) };
}

function send(map, url, values, key) {
  focusAfter = key;
  const headers = { "X-CSRFToken": document.body.dataset.csrf };
  htmx.ajax("POST", url, { source: map, target: "#flaws", swap: "outerHTML", values, headers });
}

function setUp(map) {
  if (map.dataset.ready || !map.dataset.move) return;
  map.dataset.ready = "1";
  const svg = map.querySelector("svg");
  let held = null;

  svg.addEventListener("pointerdown", (event) => {
    const flaw = event.target.closest(".flaw");
    if (!flaw) return;
    held = { flaw, from: point(svg, event), moved: false };
    flaw.focus();
    svg.setPointerCapture(event.pointerId);
    event.preventDefault();
  });
  svg.addEventListener("pointermove", (event) => {
    if (!held) return;
    const here = point(svg, event);
    const dx = here.x - held.from.x;
    const dy = here.y - held.from.y;
    if (Math.hypot(dx, dy) > 3) held.moved = true;
    held.flaw.setAttribute("transform", `translate(${dx} ${dy})`);
  });
  svg.addEventListener("pointerup", (event) => {
    const here = point(svg, event);
    if (!held) {
      htmx.ajax("GET", `${map.dataset.form}?x=${here.x}&y=${here.y}`, { target: "#flaw-form", swap: "innerHTML" });
      return;
    }
    const { flaw, from, moved } = held;
    held = null;
    if (moved) {
      send(map, map.dataset.move.replace("/0/", `/${flaw.dataset.flaw}/`), { dx: here.x - from.x, dy: here.y - from.y }, flaw.dataset.flaw);
    } else {
      htmx.ajax("GET", `${map.dataset.form}?flaw=${flaw.dataset.flaw}`, { target: "#flaw-form", swap: "innerHTML" });
    }
  });
  svg.addEventListener("keydown", (event) => {
    const flaw = event.target.closest(".flaw");
    if (!flaw) return;
    const key = flaw.dataset.flaw;
    if (event.key in STEP) send(map, map.dataset.move.replace("/0/", `/${key}/`), { nudge: STEP[event.key] }, key);
    else if (event.key === "Delete") send(map, map.dataset.drop.replace("/0/", `/${key}/`), {}, null);
    else if (event.key === "Enter") htmx.ajax("GET", `${map.dataset.form}?flaw=${key}`, { target: "#flaw-form", swap: "innerHTML" });
    else return;
    event.preventDefault();
    event.stopPropagation();
  });
}

function setUpAll() {
  document.querySelectorAll("[data-flaw-map]").forEach(setUp);
  if (focusAfter === null) return;
  const now = document.querySelector(`[data-replaces="${focusAfter}"]`)?.dataset.now ?? focusAfter;
  document.querySelector(`.flaw[data-flaw="${now}"]`)?.focus();
  focusAfter = null;
}

setUpAll();
document.addEventListener("htmx:afterSettle", setUpAll);
