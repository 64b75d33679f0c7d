// A photograph with what was found in it: lines along the limbs, rings that are dragged or moved by arrow keys.

const svg = document.querySelector("[data-sight]");
const NS = "http://www.w3.org/2000/svg";
const STEP = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

function made(tag, attributes) {
  const one = document.createElementNS(NS, tag);
  for (const [name, value] of Object.entries(attributes)) one.setAttribute(name, value);
  return one;
}

const at = (ring) => [Number(ring.getAttribute("cx")), Number(ring.getAttribute("cy"))];

// Rings keep their size on the screen, whatever the picture's.
function sized() {
  const per = 1 / Math.max(svg.getScreenCTM()?.a ?? 1, 1e-3);
  for (const ring of svg.querySelectorAll(".knot")) ring.setAttribute("r", (ring.classList.contains("tap") ? 12 : 8) * per);
  svg.style.setProperty("--per", per);
}

function movable(ring, tell) {
  let from = null;
  const to = (x, y) => {
    const box = svg.viewBox.baseVal;
    ring.setAttribute("cx", Math.min(Math.max(x, box.x), box.x + box.width));
    ring.setAttribute("cy", Math.min(Math.max(y, box.y), box.y + box.height));
    tell(ring);
  };
  const here = (event) => new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
  ring.addEventListener("pointerdown", (event) => {
    ring.setPointerCapture(event.pointerId);
    const spot = here(event), [x, y] = at(ring);
    from = [x - spot.x, y - spot.y];
    event.preventDefault();
    ring.focus({ preventScroll: true });
  });
  ring.addEventListener("pointermove", (event) => {
    if (!from) return;
    const spot = here(event);
    to(spot.x + from[0], spot.y + from[1]);
  });
  for (const name of ["pointerup", "pointercancel"]) ring.addEventListener(name, () => { from = null; });
  ring.addEventListener("keydown", (event) => {
    const way = STEP[event.key];
    if (!way) return;
    event.preventDefault();
    const [x, y] = at(ring), by = event.shiftKey ? 10 : 1;
    to(x + by * way[0], y + by * way[1]);
  });
}

function taps() {
  const field = document.querySelector('[data-sight-form="taps"] [name="taps"]');
  const rings = [...svg.querySelectorAll("[data-tap]")];
  const names = [...svg.querySelectorAll("[data-tap-name]")];
  const tell = () => {
    field.value = JSON.stringify(rings.map(at));
    names.forEach((name, k) => { const [x, y] = at(rings[k]); name.setAttribute("x", x); name.setAttribute("y", y); });
  };
  rings.forEach((ring) => movable(ring, tell));
  tell();
}

// A limb's line with its rings: what lies between two rings goes along with them.
function limb(name, found, moved, changed) {
  const line = found.lines[name];
  const shown = made("polyline", { class: "sight-line" });
  svg.querySelector("[data-lines]").append(shown);
  const knots = found.knots.map((spot, k) => ({ spot, k })).filter(({ k }) => found.limbs[k] === name);
  const rings = knots.map(({ spot, k }, place) => {
    const now = moved[k] ?? spot;
    return made("circle", { class: `knot${moved[k] ? " by-hand" : ""}`, cx: now[0], cy: now[1], r: 12, tabindex: 0, role: "button", "aria-label": `${name} limb, place ${place + 1} of ${knots.length}, to the nock: arrow keys move it` });
  });
  const draw = () => {
    const off = rings.map((ring, k) => { const [x, y] = at(ring); return [x - knots[k].spot[0], y - knots[k].spot[1]]; });
    const whole = [[0, 0], ...off];
    const points = line.map(([x, y], k) => {
      const share = (k / (line.length - 1)) * knots.length, low = Math.min(Math.floor(share), knots.length - 1), part = share - low;
      return [0, 1].map((axis) => [x, y][axis] + whole[low][axis] * (1 - part) + whole[low + 1][axis] * part);
    });
    shown.setAttribute("points", points.map((p) => p.map((v) => v.toFixed(1)).join(",")).join(" "));
  };
  rings.forEach((ring, place) => {
    svg.append(ring);
    if (changed) movable(ring, () => { ring.classList.add("by-hand"); changed(knots[place].k, at(ring)); draw(); });
    else { ring.removeAttribute("tabindex"); ring.removeAttribute("role"); ring.setAttribute("aria-hidden", "true"); }
  });
  draw();
}

function lines(found) {
  const field = document.querySelector('[data-sight-form="moved"] [name="moved"]');
  let moved = {};
  try { moved = JSON.parse(field?.value || "{}"); } catch { /* nothing was moved */ }
  if (!field) moved = found.moved;
  const changed = field && ((k, spot) => { moved[k] = spot.map((v) => Math.round(v * 100) / 100); field.value = JSON.stringify(moved); });
  for (const name of ["upper", "lower"]) limb(name, found, moved, changed);
  if (!found.nock) return;
  const k = found.knots.length, spot = moved[k] ?? found.nock;
  const ring = made("circle", { class: `knot nock${moved[k] ? " by-hand" : ""}`, cx: spot[0], cy: spot[1], r: 12, tabindex: 0, role: "button", "aria-label": "nocking point: arrow keys move it" });
  svg.append(ring);
  if (changed) movable(ring, () => { ring.classList.add("by-hand"); changed(k, at(ring)); });
  else ring.removeAttribute("tabindex");
}

if (svg) {
  if (svg.querySelector("[data-tap]")) taps();
  else if (svg.dataset.sight) lines(JSON.parse(svg.dataset.sight));
  sized();
  window.addEventListener("resize", sized);
}

// What takes some seconds says so, and is sent once; whoever comes back to the page may send again.
for (const form of document.querySelectorAll("form[data-slow]")) {
  const button = form.querySelector("button"), said = button.textContent;
  form.addEventListener("submit", () => { button.disabled = true; button.textContent = form.dataset.slow; });
  window.addEventListener("pageshow", () => { button.disabled = false; button.textContent = said; });
}
