// Bench entries: each is written into this browser's queue first (queue.js), then sent; the box at the head of every
// page shows what waits and lets what was refused be mended.

import { change, channel, entries, flush, freshId, remove, write, writeLine } from "./queue.js";

const box = document.getElementById("unsent");
const who = document.body.dataset.who ?? "";
for (const name of ["who", "build", "world"]) if (document.body.dataset[name]) localStorage.setItem(`fellwind-${name}`, document.body.dataset[name]);

// A label with its unit after a comma.
function saidOf(label) {
  const unit = label?.querySelector(".unit")?.textContent.trim();
  const whole = (label?.textContent ?? "").replace(/\s+/g, " ").trim();
  return unit ? `${whole.slice(0, -unit.length).trim()}, ${unit}` : whole;
}

// What a form asks, so that an entry can be mended on any page.
function labelsOf(form) {
  const rows = [];
  for (const field of form.elements) {
    const shown = field.name && field.type !== "hidden" && !["submit", "button", "radio", "checkbox"].includes(field.type);
    if (field.name === "line") rows.push({ name: "line", label: "Pencil line" });
    else if (shown) {
      const label = saidOf(field.labels?.[0]) || field.name;
      const options = field.matches("select") ? [...field.options].map((o) => [o.value, o.text]) : undefined;
      rows.push({ name: field.name, label, options });
    }
  }
  return rows;
}

function made(tag, more = {}, ...inside) {
  const one = Object.assign(document.createElement(tag), more);
  one.append(...inside);
  return one;
}

// What an entry says, in one line, and the bow it belongs to.
function summary(row) {
  const body = new URLSearchParams(row.body);
  const parts = row.labels.filter(({ name }) => body.get(name)).map(({ name, label }) => (name === "line" ? body.get(name) : `${label}: ${body.get(name)}`));
  const at = new Date(row.written).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit", hour12: false });
  return [row.about, parts.join("; ") || row.what, `written at ${at}`].filter(Boolean).join(" · ");
}

// The shop's own sentences in the page it answered with.
function sentences(page) {
  const answer = new DOMParser().parseFromString(page, "text/html");
  const found = [...answer.querySelectorAll(".error, .notice.error")].map((one) => {
    const label = saidOf(one.closest(".field")?.querySelector("label"));
    return `${label ? `${label}: ` : ""}${one.textContent}`.replace(/\s+/g, " ").trim();
  });
  return found.join(" ") || answer.querySelector("h1")?.textContent.trim() || "The shop did not take it.";
}

function mending(row) {
  const body = new URLSearchParams(row.body);
  const form = made("form", { className: "mend" });
  if (row.about) form.append(made("p", { className: "muted" }, row.about));
  form.append(made("p", { className: "error" }, sentences(row.page ?? "")));
  const fields = made("div", { className: "fields" });
  for (const { name, label, options } of row.labels) {
    const id = `mend-${row.id}-${name}`;
    const field = options ? made("select", { className: "form-select" }) : made("input", { className: "form-control", type: "text", autocomplete: "off" });
    for (const [value, text] of options ?? []) field.append(made("option", { value }, text));
    Object.assign(field, { id, name, value: body.get(name) ?? "" });
    fields.append(made("div", { className: "field" }, made("label", { htmlFor: id }, label), field));
  }
  const away = made("button", { type: "button", className: "act" }, "Throw it away");
  away.addEventListener("click", async () => {
    if (away.dataset.sure) { await remove(row.id); tell(); } else { away.dataset.sure = "1"; away.textContent = "Throw it away for good"; }
  });
  form.append(fields, made("button", { className: "act main" }, "Send it again"), " ", away);
  form.addEventListener("submit", async (event) => {
    event.preventDefault();
    for (const field of form.querySelectorAll("[name]")) body.set(field.name, field.value);
    await change(row.id, { body: body.toString(), state: "waits", said: "", page: "" });
    sendAll();
  });
  return form;
}

// What is being mended stays as it is while other entries come and go.
const mended = new Map();

function mendingOf(row) {
  const kept = mended.get(row.id);
  if (kept?.page === row.page) return kept.form;
  const form = mending(row);
  mended.set(row.id, { page: row.page, form });
  return form;
}

function waitingOf(row, why) {
  const line = made("li", {}, summary(row), " ", made("span", { className: "muted" }, row.said === why ? "" : row.said));
  if (row.other && row.other === who) {
    const mine = made("button", { type: "button", className: "act small-act" }, `Send it as ${who}`);
    mine.addEventListener("click", async () => { await change(row.id, { who, other: "" }); sendAll(); });
    line.append(" ", mine);
  }
  return line;
}

let underWay = null, busy = false; // the entry that this page is sending just now

async function tell() {
  if (!box) return;
  const shown = new Set([...document.querySelectorAll("form[data-entry]")].map((form) => form.dataset.entry));
  const rows = (await entries()).filter((row) => !shown.has(row.id) && row.id !== underWay);
  const focused = box.contains(document.activeElement) ? document.activeElement : null;
  const wait = rows.filter((row) => row.state === "waits"), refused = rows.filter((row) => row.state === "refused");
  box.hidden = rows.length === 0;
  box.replaceChildren();
  if (wait.length) {
    const count = `${wait.length} ${wait.length === 1 ? "entry waits" : "entries wait"}`;
    const why = new Set(wait.map((row) => row.said)).size === 1 ? wait[0].said : ""; // said once, where it is the same of all
    box.append(made("p", {}, `${count} here to be sent; nothing is lost. ${why}`), made("ul", { className: "plain-list waiting" }, ...wait.map((row) => waitingOf(row, why))));
  }
  if (refused.length) {
    const count = refused.length === 1 ? "An entry" : `${refused.length} entries`;
    box.append(made("p", {}, made("strong", {}, `${count} could not be taken as written. Mend it here; until then it is not in the log.`)), ...refused.map(mendingOf));
  }
  if (focused?.isConnected) focused.focus();
}

const choice = (select) => Math.max([...select.options].findIndex((one) => one.defaultSelected), 0);
const touched = (field) => {
  if (field.tagName === "SELECT") return field.selectedIndex !== choice(field);
  return field.type === "checkbox" || field.type === "radio" ? field.checked !== field.defaultChecked : field.value !== field.defaultValue;
};
// A fold that the maker has opened is the beginning of an entry, too.
const unfolded = () => document.querySelector("main details.fold[open][data-by-hand]") !== null;
const half = () => unfolded() || [...document.querySelectorAll("main :is(input:not([type=hidden]), textarea, select), #pencil, #unsent input")].some(touched);

// When an entry was last kept, by the shop's clock: a page asked for before that does not show it, and is made anew.
const KEPT = "fellwind-kept";
const keptNow = (told) => { if (told.some((one) => one.kept)) localStorage.setItem(KEPT, Math.max(...told.map((one) => one.kept ?? 0))); };
const older = () => Number(document.body.dataset.begun) < Number(localStorage.getItem(KEPT) ?? 0);

// Send what waits; the page is made anew when something of it went and nothing is half typed here.
async function sendAll() {
  const told = await flush();
  keptNow(told);
  await tell();
  if (older() && !half() && !busy && !leaving && (await entries()).length === 0) { localStorage.removeItem(KEPT); location.reload(); }
  return told;
}

async function queued(form, about, button) {
  const id = form.dataset.entry || freshId();
  const body = new URLSearchParams(new FormData(form));
  if (button?.name) body.set(button.name, button.value);
  body.delete("csrfmiddlewaretoken");
  for (const name of [...body.keys()]) if (name.endsWith("client_id")) body.set(name, id);
  const { pathname, search } = new URL(form.action || location.href, location.href);
  const named = button ?? form.querySelector("button:not([type=button])");
  const what = named?.ariaLabel || named?.textContent.trim();
  const row = { id, action: pathname + search, about, what, body: body.toString(), labels: labelsOf(form), written: Date.now(), who, state: "waits", said: "", page: "" };
  await write(row);
  return row;
}

// What still waits goes even when the last page is closed, where the browser can.
const goLater = () => navigator.serviceWorker?.ready.then((worker) => worker.sync?.register("entries")).catch(() => {});

const heading = () => document.querySelector("main h1")?.textContent.replace(/\s+/g, " ").trim();

let leaving = false; // the maker has gone on to another page already
// A file that is saved announces itself in the same way, and the page stays.
window.addEventListener("beforeunload", () => { leaving = true; setTimeout(() => { leaving = false; }, 3000); });

function go(where) {
  if (leaving) return;
  const to = new URL(where, location.href);
  if (to.pathname + to.search === location.pathname + location.search) { history.replaceState(null, "", to); location.reload(); } else location.assign(to);
}

document.addEventListener("submit", async (event) => {
  const form = event.target;
  if (!form.matches("form[data-bench]") || event.defaultPrevented) return;
  event.preventDefault();
  if (form.dataset.sending) return;
  form.dataset.sending = "1";
  const button = event.submitter;
  let row;
  try {
    row = await queued(form, heading(), event.submitter);
  } catch {
    form.submit(); // a browser that keeps nothing: the form goes as it is
    return;
  }
  busy = true;
  leaving = false;
  underWay = row.id;
  const late = setTimeout(() => { underWay = null; tell(); }, 1500);
  let told = {};
  try {
    const all = await flush();
    keptNow(all);
    told = all.find((one) => one.row.id === row.id) ?? {};
  } finally {
    clearTimeout(late);
    busy = false;
    underWay = null;
    delete form.dataset.sending;
  }
  if (told.kept) { go(told.location); return; }
  if (told.refused && document.getElementById("main").contains(form)) answered(form, row, told.page);
  else {
    // it waits, or is mended in the box: what is written next on this page is another entry
    delete form.dataset.entry;
    form.reset();
    if (form.closest("#read-back")) { form.closest("#read-back").replaceChildren(); document.getElementById("pencil")?.focus(); } else button?.focus();
    goLater();
  }
  await tell();
});

// A refused form is shown as the shop answered, with its sentences beside its fields. It stays in the queue, too, and
// sent from here again it takes its own place there.
function answered(form, row, page) {
  const where = [...document.querySelectorAll("form[data-bench]")].indexOf(form);
  const now = new DOMParser().parseFromString(page, "text/html").getElementById("main");
  if (!now) { tell(); return; }
  const main = document.getElementById("main");
  main.replaceChildren(...now.childNodes);
  htmx.process(main);
  main.dispatchEvent(new CustomEvent("htmx:afterSwap", { bubbles: true, detail: { target: main } }));
  const forms = [...document.querySelectorAll("form[data-bench]")];
  const mine = forms.find((one) => one.querySelector(".wrong, .error")) ?? forms[where];
  if (mine) mine.dataset.entry = row.id;
  (main.querySelector(".wrong input, .wrong select") ?? main.querySelector(".error"))?.focus();
  main.querySelector(".error")?.scrollIntoView({ block: "center" });
}

// The pencil line is read back by the shop before it is kept. While the shop is away it waits as it was written.
async function lineWaits(event) {
  const form = event.target.closest?.("form.pencil");
  if (!form || !form.dataset.keep || !form.elements.line.value.trim()) return false;
  await writeLine(form.dataset.keep, form.dataset.about, form.elements.line.value, form.elements.page_world.value, who);
  form.reset();
  document.getElementById("read-back").replaceChildren();
  await flush();
  await tell();
  goLater();
  return true;
}

const trouble = document.getElementById("trouble");
const say = (text) => { if (trouble) { trouble.textContent = text; trouble.hidden = !text; } };

for (const name of ["htmx:sendError", "htmx:timeout", "htmx:responseError"]) {
  document.addEventListener(name, async (event) => {
    const status = event.detail.xhr?.status ?? 0;
    if (name === "htmx:responseError" && status < 500 && status !== 401) {
      say(status === 404 ? "That is not there any more; load the page anew." : `The shop refused that (${status}); load the page anew.`);
      return;
    }
    if (await lineWaits(event)) return;
    say(status === 401 ? "You are signed out; sign in again, nothing here is lost." : "The shop did not answer; nothing was changed. What you typed still stands here; try again.");
  });
}
document.addEventListener("htmx:afterRequest", (event) => { if (event.detail.successful) say(""); });

// What an earlier version of this page left waiting.
async function fromBefore() {
  const OLD = "fellwind-unsent", text = localStorage.getItem(OLD);
  if (!text) return;
  let rows;
  try { rows = JSON.parse(text); } catch { localStorage.setItem(`${OLD}-damaged`, text); rows = []; }
  for (const row of rows) {
    const id = new URLSearchParams(row.body).get("client_id") || freshId();
    await write({ id, action: row.action, about: row.about ?? "", body: row.body, labels: row.labels ?? [], written: Date.now(), who: "" });
  }
  localStorage.removeItem(OLD);
}

channel?.addEventListener("message", () => tell());
window.addEventListener("online", sendAll);
window.addEventListener("pageshow", (event) => { if (event.persisted) sendAll(); });
document.addEventListener("visibilitychange", () => { if (!document.hidden) sendAll(); });
navigator.serviceWorker?.register(new URL("worker.js", import.meta.url).pathname, { type: "module", scope: "/" }).catch(() => {});
await fromBefore();
await tell();
await sendAll();
setInterval(async () => { if (!busy && (await entries()).some((row) => row.state === "waits")) sendAll(); }, 5000);
