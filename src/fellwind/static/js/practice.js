// The practice tree: the bow moves as the rope does, between shapes that the shop has worked out. The rope is pulled by
// drag, by keys, or by pressing a button; what is done then goes to the shop as an act. Nothing is computed here.

const NS = "http://www.w3.org/2000/svg";
const WIDE = 960, MIDDLE = 480, TOP = 70, THICK = 1.7;
const still = () => matchMedia("(prefers-reduced-motion: reduce)").matches;
const POUND = 4.4482216, G = 9.80665, INCH = 0.0254;
const UP = [..."⁰¹²³⁴⁵⁶⁷⁸⁹"], DOWN = [..."₀₁₂₃₄₅₆₇₈₉"], ODD = { "1/2": "½", "1/4": "¼", "3/4": "¾", "1/8": "⅛", "3/8": "⅜", "5/8": "⅝", "7/8": "⅞" };

function fraction(sixteenths) {
  let [top, under] = [sixteenths, 16];
  while (top % 2 === 0) [top, under] = [top / 2, under / 2];
  const small = (number, signs) => [...String(number)].map((one) => signs[one]).join("");
  return ODD[`${top}/${under}`] ?? `${small(top, UP)}⁄${small(under, DOWN)}`;
}

function lengthWords(metres, world) {
  if (world === "metric") return `${Math.round(1000 * metres)} mm`;
  const sixteenths = Math.round((16 * metres) / INCH), whole = Math.floor(sixteenths / 16), rest = sixteenths % 16;
  return `${[whole || !rest ? String(whole) : "", rest ? fraction(rest) : ""].filter(Boolean).join(" ")} in`;
}
const weightWords = (newtons, world) => (world === "metric" ? `${(newtons / G).toFixed(1)} kg` : `${(newtons / POUND).toFixed(1)} lb`);
const typed = (metres, world) => (world === "metric" ? String(Math.round(1000 * metres)) : (metres / INCH).toFixed(2));

function made(parent, tag, attributes = {}, words = "") {
  const one = document.createElementNS(NS, tag);
  for (const [name, value] of Object.entries(attributes)) one.setAttribute(name, value);
  if (words) one.textContent = words;
  parent.append(one);
  return one;
}

// --- sound: off until somebody turns it on -------------------------------------------------------------------------

const SOUND = "fellwind-practice-sound";
let air = null;
const loud = () => localStorage.getItem(SOUND) === "on";

function noise(seconds, pitch, much) {
  if (!loud()) return;
  air ??= new AudioContext();
  const buffer = air.createBuffer(1, seconds * air.sampleRate, air.sampleRate), row = buffer.getChannelData(0);
  for (let k = 0; k < row.length; k += 1) row[k] = (Math.random() * 2 - 1) * (1 - k / row.length) ** 2;
  const source = air.createBufferSource(), filter = air.createBiquadFilter(), gain = air.createGain();
  Object.assign(filter, { type: "bandpass" });
  filter.frequency.value = pitch;
  filter.Q.value = 6;
  gain.gain.value = much;
  source.buffer = buffer;
  source.connect(filter).connect(gain).connect(air.destination);
  source.start();
}
const creak = (use) => noise(0.09, 300 + 500 * Math.random(), 0.6 * Math.min(1, (use - 0.8) / 0.2));
const crack = () => { noise(0.5, 900, 3); noise(0.25, 2600, 3); };

// --- the picture ---------------------------------------------------------------------------------------------------

class Tree {
  constructor(holder, data) {
    this.data = data;
    this.svg = holder.querySelector("svg");
    this.svg.replaceChildren();
    this.small = holder.clientWidth < 600; // on a phone: larger words, a larger dial, fewer figures
    this.high = this.small ? 560 : 414;
    this.svg.setAttribute("viewBox", `0 0 ${WIDE} ${this.high}`);
    this.svg.classList.toggle("small-tree", this.small);
    const reach = Math.max(...data.places.flat()) + 0.03;
    this.scale = 440 / reach;
    this.least = data.draws[0] ?? 0;
    this.most = data.draws.at(-1) ?? 0;
    this.draw = data.held ?? this.least;
    this.furthest = 0;
    this.chosen = null;
    this.wall();
    this.moving = made(this.svg, "g");
    this.dial();
    this.rope();
    this.show();
  }

  x(along) { return MIDDLE + along * this.scale; }

  y(across) { return TOP + across * this.scale; }

  wall() {
    const g = made(this.svg, "g", { "aria-hidden": "true" });
    made(g, "rect", { class: "wall", x: 0, y: 0, width: WIDE, height: this.high });
    for (let x = 60; x < WIDE; x += 118) made(g, "line", { class: "plank", x1: x, y1: 0, x2: x, y2: this.high });
    made(g, "rect", { class: "clutter", x: 26, y: 330, width: 210, height: 8 });
    for (const [x, w, h] of [[40, 26, 42], [78, 34, 28], [124, 20, 50], [158, 40, 24]]) made(g, "rect", { class: "clutter", x, y: 330 - h, width: w, height: h, rx: 4 });
    made(g, "path", { class: "clutter-line", d: "M690 372 q30 -26 62 0 M690 372 v-16 M752 372 v-16" });
        made(g, "path", { class: "clutter-line", d: "M640 300 v70 M632 300 h16" });
    made(g, "rect", { class: "tree-post", x: MIDDLE - 15, y: TOP - 4, width: 30, height: this.high - TOP });
    const metric = this.data.world === "metric", step = metric ? 0.05 : 2 * INCH;
    for (let k = 1; k * step * this.scale < this.high - TOP - 10; k += 1) {
      const y = this.y(this.data.pivot[1] + k * step), long = k % (this.small ? 4 : 2) === 0;
      made(g, "line", { class: "tree-tick", x1: MIDDLE - 15, y1: y, x2: MIDDLE - (long ? 3 : 8), y2: y });
      if (long) made(g, "text", { class: "tree-number", x: MIDDLE + 20, y: y + 4 }, metric ? String(Math.round(k * 50)) : String(2 * k));
    }
    made(g, "text", { class: "tree-number", x: MIDDLE + 48, y: this.y(this.data.pivot[1] + 2 * step) + 4 }, metric ? "mm" : "in");
    made(g, "text", { class: "chalk-word", x: 40, y: 24 }, "lower");
    made(g, "text", { class: "chalk-word", x: WIDE - 40, y: 24 }, "upper");
  }

  dial() {
    const g = made(this.svg, "g", { "aria-hidden": "true" });
    const metric = this.data.world === "metric", unit = metric ? G : POUND;
    const heaviest = Math.max(1.25 * this.data.wanted, ...this.data.weight) / unit, step = metric ? 5 : 10;
    this.full = Math.ceil(heaviest / step) * step * unit;
    this.centre = this.small ? [820, 350] : [866, 290];
    const [cx, cy] = this.centre, R = this.small ? 118 : 66;
    this.radius = R;
    const words = this.small ? 40 : 22;
    made(g, "circle", { class: "dial", cx, cy, r: R });
    for (let k = 0; k * step * unit <= this.full + 1; k += 1) {
      const [s, c] = this.turned(k * step * unit);
      made(g, "line", { class: "dial-tick", x1: cx + s * (R - 10), y1: cy - c * (R - 10), x2: cx + s * R, y2: cy - c * R });
      made(g, "text", { class: "dial-number", x: cx + s * (R - (this.small ? 36 : 22)), y: cy - c * (R - (this.small ? 36 : 22)) + (this.small ? 8 : 4) }, !this.small || k % 2 === 0 ? String(k * step) : "");
    }
    const [s, c] = this.turned(this.data.wanted);
    made(g, "line", { class: "wanted-weight", x1: cx + s * (R - 4), y1: cy - c * (R - 4), x2: cx + s * (R + 8), y2: cy - c * (R + 8) });
    this.needle = made(g, "line", { class: "dial-needle", x1: cx, y1: cy, x2: cx, y2: cy - R + 14 });
    this.dialWords = made(g, "text", { class: "dial-words", x: cx, y: cy + R + words });
    this.drawWords = made(g, "text", { class: "dial-words", x: cx, y: cy + R + 1.95 * words });
  }

  turned(weight) {
    const angle = (-135 + (270 * Math.min(weight, this.full)) / this.full) * (Math.PI / 180);
    return [Math.sin(angle), Math.cos(angle)];
  }

  rope() {
    this.grip = made(this.svg, "g", { class: "rope-grip", id: "rope", role: "slider", tabindex: this.data.over || this.data.broke ? -1 : 0, "aria-orientation": "vertical", "aria-label": "Rope: how far the string is pulled" });
    this.line = made(this.grip, "line", { class: "rope" });
    this.hook = made(this.grip, "circle", { class: "rope-hook", r: this.small ? 26 : 13 });
  }

  // The shape at a draw, between the two that are nearest.
  pose(draw) {
    const d = this.data, n = d.draws.length;
    let k = d.draws.findIndex((one) => one >= draw);
    k = k < 0 ? n - 1 : Math.max(k, 1);
    if (n < 2) return { ...d.rest, weight: 0, use: null };
    const t = Math.min(1, Math.max(0, (draw - d.draws[k - 1]) / (d.draws[k] - d.draws[k - 1])));
    const mixed = (rows) => rows[k - 1].map((row, side) => row.map((v, j) => v + t * (rows[k][side][j] - v)));
    return { along: mixed(d.along), across: mixed(d.across), use: mixed(d.use), weight: d.weight[k - 1] + t * (d.weight[k] - d.weight[k - 1]) };
  }

  get sunk() { return this.draw === this.data.held ? this.data.sunk : 1; }

  // A point of a limb at a place from the bow's centre, and which way its belly looks.
  at(side, place, shape) {
    const places = this.data.places[side];
    let k = places.findIndex((one) => one >= place);
    k = k < 0 ? places.length - 1 : Math.max(k, 1);
    const t = Math.min(1, Math.max(0, (place - places[k - 1]) / (places[k] - places[k - 1])));
    const p = (j) => [this.x(shape.along[side][j]), this.y(shape.across[side][j])];
    const [a, b] = [p(k - 1), p(k)], long = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1, way = side === 0 ? 1 : -1;
    return { x: a[0] + t * (b[0] - a[0]), y: a[1] + t * (b[1] - a[1]), nx: (-way * (b[1] - a[1])) / long, ny: (way * (b[0] - a[0])) / long };
  }

  limb(g, side, shape, from, to) {
    const places = this.data.places[side], belly = [], back = [];
    for (let k = from; k <= to; k += 1) {
      const p = this.at(side, places[k], shape), half = this.scale * THICK;
      belly.push([p.x + p.nx * this.data.belly[side][k] * half, p.y + p.ny * this.data.belly[side][k] * half]);
      back.unshift([p.x - p.nx * this.data.back[side][k] * half, p.y - p.ny * this.data.back[side][k] * half]);
    }
    return made(g, "path", { class: "stave-limb", d: `M${[...belly, ...back].map((q) => q.map((v) => v.toFixed(1)).join(" ")).join("L")}Z` });
  }

  run(side, start, end, shape, off) {
    const points = [];
    for (let k = 0; k <= 10; k += 1) {
      const p = this.at(side, start + ((end - start) * k) / 10, shape);
      points.push(`${(p.x + off * p.nx).toFixed(1)} ${(p.y + off * p.ny).toFixed(1)}`);
    }
    return `M${points.join("L")}`;
  }

  show() {
    const d = this.data, g = this.moving;
    g.replaceChildren();
    const shape = this.pose(this.draw), pivot = d.pivot;
    const hook = [this.x(pivot[0]), this.y(pivot[1] + this.draw)];
    if (!d.broke) {
      const tips = [0, 1].map((side) => [this.x(shape.along[side].at(-1)), this.y(shape.across[side].at(-1))]);
      made(g, "path", { class: "stave-string", d: `M${tips[1].join(" ")}L${hook.join(" ")}L${tips[0].join(" ")}` });
    }
    const last = d.places[0].length - 1;
    for (const side of [0, 1]) {
      const broke = d.broke && (d.broke.limb === "upper" ? 0 : 1) === side;
      if (!broke) { this.limb(g, side, shape, 0, last); continue; }
      const k = Math.min(last - 1, Math.max(1, d.places[side].findIndex((one) => one >= d.broke.at)));
      this.limb(g, side, shape, 0, k);
      const p = this.at(side, d.places[side][k], shape), turn = side === 0 ? 62 : -62;
      const outer = made(g, "g", { transform: `rotate(${turn} ${p.x} ${p.y}) translate(0 ${6})` });
      this.limb(outer, side, shape, k, last);
      made(g, "path", { class: "splinter", d: `M${p.x - 8} ${p.y - 12}l7 9l-4 5l9 8 M${p.x + 7} ${p.y - 10}l-5 10l6 3l-3 9` });
    }
    for (const side of d.broke ? [] : [0, 1]) made(g, "path", { class: "grain", d: this.run(side, d.places[side][0], d.places[side].at(-1), shape, 1.5) });
    const roots = [0, 1].map((side) => this.at(side, d.places[side][0], shape));
    if (roots[0].x - roots[1].x > 8) made(g, "rect", { class: "stave-grip", x: roots[1].x - 2, y: this.y(0) - 8, width: roots[0].x - roots[1].x + 4, height: 20, rx: 4 });
    this.surface(g, shape);
    this.line.setAttribute("x1", hook[0]); this.line.setAttribute("y1", hook[1]);
    this.line.setAttribute("x2", MIDDLE); this.line.setAttribute("y2", this.high - 10);
    this.hook.setAttribute("cx", hook[0]); this.hook.setAttribute("cy", Math.min(hook[1], this.high - 18));
    this.grip.setAttribute("visibility", d.broke ? "hidden" : "visible");
    const up = this.draw > this.least + 0.004 && !d.broke, weight = up ? shape.weight * this.sunk : 0;
    const [s, c] = this.turned(weight), [cx, cy] = this.centre;
    this.needle.setAttribute("x2", cx + (this.radius - 14) * s); this.needle.setAttribute("y2", cy - (this.radius - 14) * c);
    this.dialWords.textContent = weightWords(weight, d.world);
    this.drawWords.textContent = up ? `at ${lengthWords(this.draw, d.world)}` : "let down";
    const told = `${lengthWords(this.draw, d.world)}, ${weightWords(weight, d.world)}`;
    for (const [name, value] of Object.entries({ "aria-valuemin": Math.round(1000 * this.least), "aria-valuemax": Math.round(1000 * this.most), "aria-valuenow": Math.round(1000 * this.draw), "aria-valuetext": up ? told : "let down" })) this.grip.setAttribute(name, value);
    return shape;
  }

  // Knots, chalk, frets, the chosen stretch, and whatever is strained so far that it whitens.
  surface(g, shape) {
    const d = this.data, side = (limb) => (limb === "upper" ? 0 : 1);
    for (const one of d.knots) {
      const p = this.at(side(one.limb), one.at, shape);
      made(g, "ellipse", { class: "stave-knot", cx: p.x, cy: p.y, rx: 3 + 150 * one.size, ry: 4 });
    }
    if (shape.use && !d.broke) {
      for (const k of [0, 1]) {
        for (let j = 1; j < shape.use[k].length; j += 1) {
          const use = Math.max(shape.use[k][j], shape.use[k][j - 1]);
          if (use < 0.82) continue;
          const line = made(g, "path", { class: "white", d: this.run(k, d.places[k][j - 1], d.places[k][j], shape, -3) });
          line.style.opacity = Math.min(1, (use - 0.78) / 0.2);
        }
      }
    }
    for (const one of d.frets) {
      const p = this.at(side(one.limb), one.at, shape);
      for (const k of [-5, 0, 5]) made(g, "line", { class: "fret", x1: p.x + k, y1: p.y, x2: p.x + k + 9 * p.nx, y2: p.y + 9 * p.ny });
    }
    const every = this.small ? 2 : 1; // on a phone there is no room for all of them
    for (const one of d.broke ? [] : d.pencilled.filter((_, k) => k % every === 0)) {
      const p = this.at(side(one.limb), one.at, shape), tip = one.kind === "tip height";
      made(g, "text", { class: "pencilled", x: p.x + (tip ? 0 : 26 * p.nx), y: p.y + (tip ? -16 : 26 * p.ny) }, one.words);
    }
    for (const one of d.marks) {
      const k = side(one.limb), p = this.at(k, (one.start + one.end) / 2, shape);
      made(g, "path", { class: `chalk chalk-${one.how}`, d: this.run(k, one.start, one.end, shape, -13) });
      made(g, "text", { class: "chalk-word", x: p.x - 24 * p.nx, y: p.y - 24 * p.ny }, one.how);
    }
    if (d.aside !== null && !d.broke) this.grip_seen(g);
    if (this.chosen) made(g, "path", { class: "stave-chosen", d: this.run(this.chosen.side, this.chosen.start, this.chosen.end, shape, 12) });
  }

  // The grip seen from the belly, with the string where it was read to lie.
  grip_seen(g) {
    const x = 150, y = this.small ? 250 : 186, wide = 34;
    made(g, "rect", { class: "stave-limb", x: x - wide / 2, y: y - 44, width: wide, height: 88, rx: 6 });
    made(g, "line", { class: "centre-line", x1: x, y1: y - 52, x2: x, y2: y + 52 });
    const off = Math.max(-60, Math.min(60, 1200 * this.data.aside));
    made(g, "line", { class: "stave-string", x1: x + off, y1: y - 56, x2: x + off, y2: y + 56 });
    made(g, "text", { class: "chalk-word", x, y: y + 76 }, "from the belly");
  }

  // Pull to a draw; true when it has broken there.
  to(draw) {
    const d = this.data, before = this.draw;
    this.draw = Math.min(this.most, Math.max(this.least, draw));
    this.furthest = Math.max(this.furthest, this.draw);
    const shape = this.show();
    if (shape.use && this.draw > before) {
      const use = Math.max(...shape.use.flat());
      if (use > 0.82 && Math.random() < 0.5) creak(use);
    }
    if (d.breaks !== null && this.draw >= d.breaks) {
      crack();
      const use = shape.use.map((row) => Math.max(...row)), side = use[0] >= use[1] ? 0 : 1;
      d.broke = { limb: side === 0 ? "upper" : "lower", at: d.places[side][shape.use[side].indexOf(use[side])], draw: this.draw };
      this.show();
      return true;
    }
    return false;
  }

  nearest(event) {
    const at = this.point(event), shape = this.pose(this.draw);
    let found = null;
    for (const side of [0, 1]) {
      this.data.places[side].forEach((place) => {
        const p = this.at(side, place, shape), away = Math.hypot(p.x - at.x, p.y - at.y);
        if (!found || away < found.away) found = { side, place, away };
      });
    }
    return found;
  }

  point(event) {
    const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(this.svg.getScreenCTM().inverse());
    return { x: at.x, y: at.y };
  }
}

// --- hands ---------------------------------------------------------------------------------------------------------

function setUp() {
  const holder = document.querySelector("[data-practice]"), source = document.getElementById("practice-data");
  if (!holder || !source || holder.dataset.ready) return;
  holder.dataset.ready = "1";
  const data = JSON.parse(source.textContent), tree = new Tree(holder, data), world = data.world;
  const pulls = document.querySelector("form[data-pull]"), where = document.querySelector("form[data-where]");
  sounds(holder);
  if (!pulls) return;

  // What the rope did goes to the shop: how far, and where it is held now.
  let sent = false;
  function send() {
    if (sent || tree.furthest === 0) return;
    sent = true;
    const broken = data.broke !== null;
    pulls.elements.draw.value = typed(tree.furthest + (broken ? 0.004 : 0), world);
    pulls.elements.until.value = broken ? "" : typed(tree.draw, world);
    pulls.querySelector("button[value=pull]").click();
  }
  // The shop did not answer: the rope is where it was, and may be pulled again.
  holder.addEventListener("practice:unsent", () => {
    sent = false;
    data.broke = null;
    tree.furthest = 0;
    tree.draw = data.held ?? tree.least;
    tree.show();
  });
  // typed by hand, there is nothing else
  pulls.elements.draw.addEventListener("input", () => { pulls.elements.until.value = ""; });

  let hand = null;
  tree.hook.addEventListener("pointerdown", (event) => {
    event.preventDefault();
    tree.grip.focus({ preventScroll: true });
    hand = { y: tree.point(event).y, draw: tree.draw };
    tree.hook.setPointerCapture(event.pointerId);
  });
  tree.hook.addEventListener("pointermove", (event) => {
    if (!hand || sent) return;
    if (tree.to(hand.draw + (tree.point(event).y - hand.y) / tree.scale)) { hand = null; send(); }
  });
  for (const end of ["pointerup", "pointercancel"]) tree.hook.addEventListener(end, () => { if (hand) { hand = null; send(); } });

  // keys: half an inch or a centimetre; what rests for a moment is held
  let rests = null;
  const step = world === "metric" ? 0.01 : INCH / 2;
  tree.grip.addEventListener("keydown", (event) => {
    const much = { ArrowDown: step, ArrowUp: -step, PageDown: 4 * step, PageUp: -4 * step, Home: -9 }[event.key];
    if (event.key === "Enter" || event.key === " ") { event.preventDefault(); event.stopPropagation(); send(); return; }
    if (much === undefined || sent) return;
    event.preventDefault();
    event.stopPropagation();
    clearTimeout(rests);
    if (tree.to(tree.draw + much)) send(); else rests = setTimeout(send, 900);
  });
  tree.grip.addEventListener("blur", () => { clearTimeout(rests); if (!hand) send(); });

  // a button that is held down
  const press = document.querySelector("[data-hold-to-pull]");
  let since = null;
  function comes(now) {
    if (since === null || sent) return;
    const gone = tree.to(tree.draw + (0.16 * (now - since)) / 1000);
    since = now;
    if (gone) { since = null; send(); } else requestAnimationFrame(comes);
  }
  const begin = (event) => { if (event.type === "keydown" && event.key !== " " && event.key !== "Enter") return; if (event.repeat) return; event.preventDefault(); since = performance.now(); requestAnimationFrame(comes); };
  const end = (event) => { if (since === null) return; event.preventDefault(); since = null; send(); };
  press.addEventListener("pointerdown", begin);
  press.addEventListener("keydown", begin);
  for (const name of ["pointerup", "pointerleave", "pointercancel", "keyup", "blur"]) press.addEventListener(name, end);

  // a stretch of a limb by drag; its figures stand in the form, where they can be typed as well
  // rubbed to and fro, each way is a stroke
  let first = null, turned = null;
  function rubbed(to) {
    const way = Math.sign(to.place - turned.place);
    if (!way) return;
    if (way !== turned.way) { turned.strokes += 1; turned.way = way; }
    turned.place = to.place;
    if (turned.strokes > 1) where.elements.strokes.value = turned.strokes;
  }
  function choose(to) {
    turned.reach = [Math.min(turned.reach[0], to.place), Math.max(turned.reach[1], to.place)];
    const [start, end] = turned.strokes > 1 ? turned.reach : [first.place, to.place].sort((a, b) => a - b);
    tree.chosen = { side: first.side, start, end: Math.max(end, start + 0.02) };
    where.elements.limb.value = first.side === 0 ? "upper" : "lower";
    where.elements.start.value = typed(tree.chosen.start, world);
    where.elements.end.value = typed(tree.chosen.end, world);
    tree.show();
  }
  tree.svg.addEventListener("pointerdown", (event) => {
    if (event.target === tree.hook) return;
    const near = tree.nearest(event);
    if (!near || near.away > 34) return;
    first = near;
    turned = { place: near.place, way: 0, strokes: 0, reach: [near.place, near.place] };
    tree.svg.setPointerCapture(event.pointerId);
    choose(near);
  });
  tree.svg.addEventListener("pointermove", (event) => {
    if (!first) return;
    const near = tree.nearest(event);
    if (near.side === first.side) { rubbed(near); choose(near); }
  });
  for (const name of ["pointerup", "pointercancel"]) tree.svg.addEventListener(name, () => { first = null; });
  function typedStretch() {
    const unit = world === "metric" ? 0.001 : INCH, limb = where.elements.limb.value;
    const [start, last] = ["start", "end"].map((name) => Number.parseFloat(where.elements[name].value) * unit);
    const good = limb && Number.isFinite(start) && Number.isFinite(last);
    tree.chosen = good ? { side: limb === "upper" ? 0 : 1, start: Math.min(start, last), end: Math.max(start, last) } : null;
    tree.show();
  }
  for (const name of ["limb", "start", "end"]) where.elements[name].addEventListener("input", typedStretch);
  typedStretch();

  // let down, the limbs spring back
  if (last && last.draw > tree.least + 0.05 && data.held === null && !data.broke && !still() && !data.pulled) springs(tree, last.draw);
  last = tree;
}

let last = null;
function springs(tree, from) {
  const begun = performance.now();
  function frame(now) {
    const t = (now - begun) / 260;
    if (t >= 1) { tree.draw = tree.least; tree.show(); return; }
    tree.draw = tree.least + (from - tree.least) * (1 - t) ** 3;
    tree.show();
    requestAnimationFrame(frame);
  }
  requestAnimationFrame(frame);
}

function sounds(holder) {
  const button = document.createElement("button");
  button.type = "button";
  button.className = "plain sound";
  const tell = () => { button.textContent = loud() ? "sound: on" : "sound: off"; button.setAttribute("aria-pressed", String(loud())); };
  button.addEventListener("click", () => { localStorage.setItem(SOUND, loud() ? "off" : "on"); tell(); });
  tell();
  holder.append(button);
}

// A reading asked for while the last act is still on its way is not lost: it is asked for after it. Not so what takes
// figures from fields: they are made anew with the page.
const AFTER = /^(read:(weight|tips|edges|gaps|string|profile|floor)|down|ask)$/;
let asking = false;
const waits = [];
document.addEventListener("click", (event) => {
  const button = event.target.closest?.("#tree button[name=act]");
  if (asking && button && AFTER.test(button.value) && waits.length < 5) waits.push(button.value);
});
document.addEventListener("htmx:beforeRequest", () => { asking = true; });
document.addEventListener("htmx:afterRequest", ({ detail }) => {
  asking = false;
  if (!detail.successful || document.querySelector("#practice-fault")) waits.length = 0;
  const next = waits.shift();
  if (next) setTimeout(() => document.querySelector(`#tree button[name=act][value="${next}"]`)?.click());
});

for (const name of ["htmx:sendError", "htmx:timeout", "htmx:responseError"]) {
  document.addEventListener(name, () => document.querySelector("[data-practice]")?.dispatchEvent(new Event("practice:unsent")));
}

// The part of the page is made anew after each act; whoever had the keyboard on something has it there again.
let focused = "";
document.addEventListener("htmx:beforeSwap", () => {
  const one = document.activeElement;
  focused = one?.id ? `#${CSS.escape(one.id)}` : one?.matches?.("#tree button[value]") ? `#tree button[value="${one.value}"]` : "";
});
document.addEventListener("htmx:afterSettle", () => {
  setUp();
  if (!focused) return;
  const fault = document.querySelector("#tree .wrong input, #tree .wrong select");
  (fault ?? document.querySelector(focused))?.focus({ preventScroll: true });
  focused = "";
});
setUp();
