// The tiller's picture: a stretch is pressed, or several by drag or with Shift and the arrows, and then said what it
// looks like. The place of a reading that is being typed is lit on the limb. Nothing is computed here.

const strip = () => document.getElementById("strip");

function across(line, x) {
  line.setAttribute("x1", x); line.setAttribute("x2", x); line.setAttribute("visibility", "visible");
}

function setUp(drawing) {
  const picture = drawing.querySelector("svg");
  const touches = [...drawing.querySelectorAll(".touch")];
  const form = document.querySelector("form[data-see]");
  const hairline = drawing.querySelector(".hairline");
  let first = null, last = null;

  const limbOf = (limb) => touches.filter((one) => one.dataset.limb === limb);

  function read(one) {
    if (strip()) strip().textContent = one.getAttribute("aria-label");
    across(hairline, Number(one.getAttribute("x")) + Number(one.getAttribute("width")) / 2);
  }

  function choose(from, to) {
    first = from; last = to;
    const row = limbOf(from.dataset.limb), [a, b] = [row.indexOf(from), row.indexOf(to)].sort((m, n) => m - n);
    const chosen = row.slice(a, b + 1);
    for (const one of touches) one.setAttribute("aria-pressed", String(chosen.includes(one)));
    if (!form) return;
    const { limb, start } = chosen[0].dataset, { end } = chosen.at(-1).dataset;
    for (const [name, value] of Object.entries({ limb, start, end })) form.elements[name].value = value;
    form.querySelector("[data-chosen]").textContent = `${limb}, ${start} to ${end}:`;
  }

  for (const one of touches) {
    one.addEventListener("pointerenter", () => read(one));
    one.addEventListener("focus", () => read(one));
    one.addEventListener("pointerdown", (event) => {
      const extend = event.shiftKey && first && first.dataset.limb === one.dataset.limb;
      choose(extend ? first : one, one);
      one.releasePointerCapture?.(event.pointerId);
    });
    one.addEventListener("pointermove", (event) => {
      const over = document.elementFromPoint(event.clientX, event.clientY);
      if (event.buttons && first && over !== last && touches.includes(over) && over.dataset.limb === first.dataset.limb) choose(first, over);
    });
    one.addEventListener("keydown", (event) => {
      if (event.key === "Enter" || event.key === " ") { event.preventDefault(); choose(one, one); form?.querySelector("[name=how]").focus(); return; }
      const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
      if (!step) return;
      event.preventDefault();
      const order = [...touches].sort((a, b) => Number(a.getAttribute("x")) - Number(b.getAttribute("x")));
      const next = order[order.indexOf(one) + step];
      if (!next) return;
      next.focus();
      if (event.shiftKey && next.dataset.limb === one.dataset.limb) choose(first?.dataset.limb === next.dataset.limb ? first : one, next);
    });
  }

  form?.addEventListener("submit", (event) => {
    const said = event.submitter;
    if (!said?.hasAttribute("data-needs-stretch") || form.elements.start.value) return;
    event.preventDefault(); // the queue listens later, and leaves alone what is prevented
    event.stopPropagation();
    touches[0]?.focus();
    if (strip()) strip().textContent = `Press a stretch of the limb first, then say ${said.value}.`;
  });

  // On a phone one limb at a time, as large as it can be; without this the whole bow stands there, small.
  const narrow = matchMedia("(max-width: 600px)"), whole = picture.getAttribute("viewBox");
  const [, , wide, high] = whole.split(" ").map(Number);
  const centre = Number(drawing.dataset.fold), left = Number(drawing.dataset.left);
  let shown = drawing.dataset.limb ?? "upper";
  const turn = Object.assign(document.createElement("div"), { className: "fold-limbs" });
  turn.setAttribute("role", "group");
  turn.setAttribute("aria-label", "Which limb is shown");
  for (const limb of ["lower", "upper"]) {
    const button = Object.assign(document.createElement("button"), { type: "button", className: "act", textContent: `${limb} limb` });
    button.addEventListener("click", () => { shown = limb; fold(); });
    turn.append(button);
  }
  drawing.prepend(turn);

  function fold() {
    turn.hidden = !narrow.matches;
    for (const button of turn.children) button.setAttribute("aria-pressed", String(button.textContent.startsWith(shown)));
    if (!narrow.matches) { picture.setAttribute("viewBox", whole); return; }
    const from = shown === "upper" ? centre - 40 : left - 12, to = shown === "upper" ? wide : centre + 40;
    picture.setAttribute("viewBox", `${from} 0 ${to - from} ${high}`);
  }
  narrow.addEventListener("change", fold);
  fold();
}

// The place of the reading that is being typed, on whichever drawing stands there now.
let asked = 0;
async function light(event) {
  const field = event.target, place = field.dataset?.of && field.closest("form")?.dataset.place;
  const lit = document.querySelector("[data-belly] .lit");
  if (!place || !lit) return;
  const mine = ++asked;
  const answer = await fetch(`${place}?${new URLSearchParams({ name: field.dataset.of, text: field.dataset.at ?? field.value })}`).catch(() => null);
  if (!answer?.ok || mine !== asked) return;
  const { x } = await answer.json();
  if (x === null) lit.setAttribute("visibility", "hidden"); else across(lit, x);
}
for (const name of ["focusin", "input"]) document.addEventListener(name, light);

// A form of acts asks only for what the chosen act has.
function setUpActs(form) {
  const choice = form.querySelector("select[name$=act]"), care = form.querySelector("[data-care]");
  const asks = (row) => (row?.dataset.fields ?? "").split(" ").filter(Boolean);
  const all = new Set([...form.querySelectorAll("template[data-act-of]")].flatMap(asks));
  function show() {
    const row = form.querySelector(`template[data-act-of="${CSS.escape(choice.value)}"]`);
    const wanted = new Set(asks(row));
    for (const name of all) {
      const field = form.querySelector(`[name$="-${name}"]`)?.closest(".field");
      if (field) field.hidden = !wanted.has(name) && !field.classList.contains("wrong");
    }
    const said = row?.innerHTML.trim() ?? "";
    care.textContent = said;
    care.hidden = !said;
  }
  choice.addEventListener("change", show);
  show();
}

// Pulls that are counted by touch.
function setUpPulls(form) {
  let count = 0;
  const line = form.elements.line, send = form.querySelector("button:not([type=button])"), shown = form.querySelector("[data-pulled]");
  const word = send.firstChild;
  form.querySelector("[data-pull]").addEventListener("click", () => {
    count += 1;
    line.value = `${count} pulls`;
    shown.textContent = count;
    word.textContent = `keep ${count} ${count === 1 ? "pull" : "pulls"} `;
  });
}

function setUpAll(root) {
  root.querySelectorAll("[data-belly]").forEach(setUp);
  root.querySelectorAll("form[data-act]").forEach(setUpActs);
  root.querySelectorAll("form[data-count]").forEach(setUpPulls);
}
setUpAll(document);
document.addEventListener("htmx:afterSwap", (event) => setUpAll(event.target));
document.addEventListener("change", (event) => { if (event.target.matches("[data-sends]")) event.target.form.requestSubmit(); });
// What was chosen before this was at hand.
for (const select of document.querySelectorAll("select[data-sends]")) {
  const told = Math.max([...select.options].findIndex((one) => one.defaultSelected), 0);
  if (select.selectedIndex !== told) select.form.requestSubmit();
}
