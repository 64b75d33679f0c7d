// Instruments: a field that is being typed into takes what a matching instrument says; the bench view traces a pull.
// Nothing is computed here but where a needle stands in its picture.

let listens = document.body.dataset.instruments;
const EVERY = 220; // ms

async function ask(address) {
  try {
    const answer = await fetch(address, { headers: { Accept: "application/json" }, cache: "no-store" });
    return answer.ok ? await answer.json() : null;
  } catch { return null; }
}

// Fields

const TAKES = { weight: ["w"], length: ["t", "d"], speed: ["v"], moisture: ["m"], mass: ["g"], "bulk mass": ["g"] };
let field = null, since = null, asking = 0;

function next(from) {
  const stem = from.name.replace(/\d+$/, "");
  const all = [...(from.form?.querySelectorAll("input[data-quantity]") ?? [])].filter((one) => one.name.replace(/\d+$/, "") === stem);
  return stem === from.name ? null : all[all.indexOf(from) + 1] ?? null;
}

function take(line) {
  const value = line.typed[field.dataset.quantity];
  if (value === undefined || !TAKES[field.dataset.quantity]?.includes(line.what)) return;
  if (field.dataset.several !== undefined) field.value = field.value.trim() ? `${field.value.trim()} ${value}` : value;
  else field.value = value;
  field.classList.add("heard");
  field.dispatchEvent(new Event("input", { bubbles: true }));
  if (line.what === "t") { const after = next(field); if (after) after.focus(); }
}

async function listen(turn) {
  while (field && turn === asking) {
    const told = await ask(since === null ? listens : `${listens}?since=${since}`);
    if (turn !== asking || !field) return;
    if (told) {
      if (told.nobody) { listens = ""; return; } // no instrument has a token: this page need not listen
      const first = since === null;
      since = told.number; // before a field hands on to the next, which listens from here
      if (!first) {
        // of a scale that says much only the newest counts; calipers, shots and meters each count
        const newest = new Map();
        for (const line of told.lines) if (["w", "d", "g"].includes(line.what)) newest.set(line.what, line); else if (field) take(line);
        for (const line of newest.values()) if (field) take(line);
      }
    }
    await new Promise((done) => setTimeout(done, EVERY));
  }
}

if (listens) {
  document.addEventListener("focusin", (event) => {
    const one = event.target.closest?.("input[data-quantity]");
    if (!listens || !one || !TAKES[one.dataset.quantity]) return;
    field = one;
    asking += 1;
    since = one.dataset.quantity === "length" && since !== null ? since : null;
    listen(asking);
  });
  document.addEventListener("focusout", (event) => { if (event.target === field) { field = null; asking += 1; } });
}

// The pull

let sound = null;
function tone(share, on) {
  if (!on) { sound?.gain.gain.setTargetAtTime(0, sound.context.currentTime, 0.05); return; }
  if (!sound) {
    const context = new AudioContext();
    const one = context.createOscillator(), gain = context.createGain();
    one.connect(gain).connect(context.destination);
    gain.gain.value = 0;
    one.start();
    sound = { context, one, gain };
  }
  const over = share >= 1;
  sound.one.type = over ? "square" : "sine";
  sound.one.frequency.setTargetAtTime(over ? 110 : 220 + 660 * Math.max(0, share), sound.context.currentTime, 0.03);
  sound.gain.gain.setTargetAtTime(share > 0.05 ? 0.08 : 0, sound.context.currentTime, 0.05);
}

for (const box of document.querySelectorAll("[data-live]")) {
  const find = (name) => box.querySelector(`[data-${name}]`);
  const force = Number(box.dataset.force), length = Number(box.dataset.length);
  const stop = Number(box.dataset.stop), furthest = Number(box.dataset.furthest);
  const forecast = (find("forecast").dataset.forecast || "").split(" ").filter(Boolean).map((pair) => pair.split(",").map(Number));
  const most = Math.max(stop, ...forecast.map(([, w]) => w), 1) * 1.12;
  const reach = Math.max(furthest, ...forecast.map(([d]) => d), 0.2);
  const start = forecast.length ? forecast[0][0] * 0.8 : 0;
  const place = (d, w) => `${(((d - start) / (reach - start)) * 600).toFixed(1)},${(178 - (w / most) * 170).toFixed(1)}`;
  find("forecast").setAttribute("points", forecast.map(([d, w]) => place(d, w)).join(" "));
  if (stop) for (const end of ["y1", "y2"]) find("limit").setAttribute(end, place(start, stop).split(",")[1]);
  const line = box.querySelector(".live-line"), points = [];
  let begun = null, watching = false;

  async function watch() {
    const first = await ask(box.dataset.live);
    begun = first?.number ?? null;
    box.querySelector("[name=since]").value = begun ?? "";
    points.length = 0;
    while (watching) {
      const told = begun === null ? null : await ask(`${box.dataset.live}?since=${begun}&pull=1`);
      if (!told) { find("words").textContent = "The shop does not answer; the scale goes on without it."; begun ??= (await ask(box.dataset.live))?.number ?? null; }
      else {
        find("words").textContent = told.trouble;
        if (told.weight !== null) {
          const share = stop ? told.weight / stop : 0;
          find("weight").textContent = (told.weight / force).toFixed(1);
          find("draw").textContent = told.draw === null ? "–" : (told.draw / length).toFixed(length < 0.01 ? 0 : 1);
          find("fill").style.setProperty("width", `${Math.min(100, Math.max(0, share * 100)).toFixed(0)}%`);
          find("fill").parentElement.setAttribute("aria-valuenow", Math.round(share * 100));
          box.classList.toggle("over", share >= 1);
          tone(share, find("tone").checked);
          if (told.draw !== null) { points.push(place(told.draw, told.weight)); line.setAttribute("points", points.slice(-400).join(" ")); }
        }
        find("pulls").textContent = told.pulls ? `${told.pulls} pull${told.pulls === 1 ? "" : "s"}` : "";
        document.dispatchEvent(new CustomEvent("fellwind:pulls", { detail: told.pulls }));
      }
      await new Promise((done) => setTimeout(done, EVERY));
    }
    tone(0, false);
  }

  find("watch").addEventListener("click", () => {
    watching = !watching;
    find("watch").setAttribute("aria-pressed", String(watching));
    find("watch").textContent = watching ? "Stop watching" : "Watch the scale";
    if (watching) { box.querySelector(".live-on").hidden = false; box.scrollIntoView({ block: "end" }); watch(); }
  });
}
