// The page that shows while the shop is away: a pencil line for a bow by its number, and a look now and then whether
// the shop is back.

import { flush, writeLine } from "./queue.js";

const [number, world, text] = ["number", "world", "text"].map((name) => document.getElementById(`away-${name}`));
number.value = localStorage.getItem("fellwind-build") ?? "";
world.value = localStorage.getItem("fellwind-world") ?? "imperial";

document.getElementById("away-line").addEventListener("submit", async (event) => {
  event.preventDefault();
  const bow = Number(number.value);
  await writeLine(`/builds/${bow}/keep/`, `Number ${bow}`, text.value, world.value, localStorage.getItem("fellwind-who") ?? "");
  text.value = "";
  text.focus();
  window.dispatchEvent(new Event("online"));
});

setInterval(async () => {
  const there = await fetch("/queue/", { headers: { "X-Queue": "1" }, cache: "no-store" }).catch(() => null);
  if (!there || there.status >= 500 || text.value) return;
  await flush();
  location.reload();
}, 4000);
