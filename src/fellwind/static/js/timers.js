// What is left of a wait of minutes, in the page and in its title; over, it says so, and sounds where that was asked for.
// The end stands in the page, so that a reload changes nothing.

const title = document.title;
const SOUND = "fellwind-timer-sound";
let told = new Set([...document.querySelectorAll("[data-until]")].filter((t) => new Date(t.dataset.until) <= Date.now()).map((t) => t.dataset.until));

function beep() {
  if (localStorage.getItem(SOUND) !== "on") return;
  const audio = new AudioContext();
  for (const k of [0, 0.35, 0.7]) {
    const tone = audio.createOscillator(), loud = audio.createGain();
    tone.frequency.value = 880;
    loud.gain.setValueAtTime(0.2, audio.currentTime + k);
    loud.gain.setValueAtTime(0, audio.currentTime + k + 0.2);
    tone.connect(loud).connect(audio.destination);
    tone.start(audio.currentTime + k);
    tone.stop(audio.currentTime + k + 0.2);
  }
}

function words(left) {
  const hours = Math.floor(left / 3600), minutes = Math.floor(left / 60) % 60, seconds = String(left % 60).padStart(2, "0");
  return hours ? `${hours}:${String(minutes).padStart(2, "0")}:${seconds}` : `${minutes}:${seconds}`;
}

function tick() {
  let first = null;
  for (const timer of document.querySelectorAll("[data-until]")) {
    const left = Math.round((new Date(timer.dataset.until) - Date.now()) / 1000);
    timer.textContent = left > 0 ? words(left) : timer.dataset.over;
    if (left > 0 && (first === null || left < first)) first = left;
    if (left <= 0 && !told.has(timer.dataset.until)) { told.add(timer.dataset.until); beep(); }
  }
  const any = document.querySelector("[data-until]");
  if (any) document.title = first !== null ? `${words(first)} · ${title}` : `Over · ${title}`;
}

function sounds(box) {
  box.checked = localStorage.getItem(SOUND) === "on";
  box.addEventListener("change", () => { localStorage.setItem(SOUND, box.checked ? "on" : "off"); beep(); });
}

if (document.querySelector("[data-until]")) { tick(); setInterval(tick, 1000); }
document.querySelectorAll("[data-timer-sound]").forEach(sounds);
