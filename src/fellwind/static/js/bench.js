// Bench entries carry an id made here, so that a repeated send is one entry. What could not be sent waits in
// the browser and is sent when the server answers again.

const STORE = "fellwind-unsent";
const box = document.getElementById("unsent");

// Every entry that is not in the log yet: {key, action, about, body, labels, said, refused}. One that the shop
// refused stays, with the shop's sentence, until it is mended or thrown away.
function entries() {
  const text = localStorage.getItem(STORE);
  try {
    return JSON.parse(text ?? "[]").map((row, k) => ({ key: `old-${k}`, labels: [], ...row }));
  } catch {
    localStorage.setItem(`${STORE}-damaged`, text);
    localStorage.removeItem(STORE);
    return [];
  }
}
const store = (rows) => localStorage.setItem(STORE, JSON.stringify(rows));
// Another tab may have written meanwhile: only the one entry is changed.
const change = (key, to) => store(entries().flatMap((row) => (row.key !== key ? [row] : to ? [{ ...row, ...to }] : [])));

function freshId() {
  if (crypto.randomUUID) return crypto.randomUUID();
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  bytes[6] = (bytes[6] & 0x0f) | 0x40;
  bytes[8] = (bytes[8] & 0x3f) | 0x80;
  const hex = [...bytes].map((b) => b.toString(16).padStart(2, "0")).join("");
  return `${hex.slice(0, 8)}-${hex.slice(8, 12)}-${hex.slice(12, 16)}-${hex.slice(16, 20)}-${hex.slice(20)}`;
}

function giveIds(root) {
  for (const form of root.querySelectorAll("form[data-bench]")) {
    const field = form.querySelector("input[name$=client_id]");
    if (field && !field.dataset.mine && !root.querySelector(".wrong")) { field.value = freshId(); field.dataset.mine = "1"; }
  }
}

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

function mending(row) {
  const body = new URLSearchParams(row.body);
  const form = made("form", { className: "mend" });
  if (row.about) form.append(made("p", { className: "muted" }, row.about));
  form.append(made("p", { className: "error" }, row.said));
  const fields = made("div", { className: "fields" });
  for (const { name, label, options } of row.labels) {
    const id = `mend-${row.key}-${name}`;
    const field = options ? made("select", { className: "form-select" }) : made("input", { className: "form-control", type: "text", autocomplete: "off" });
    for (const [value, text] of options ?? []) field.append(made("option", { value }, text));
    Object.assign(field, { id, name, value: body.get(name) ?? "" });
    fields.append(made("div", { className: "field" }, made("label", { htmlFor: id }, label), field));
  }
  const away = made("button", { type: "button", className: "act" }, "Throw it away");
  away.addEventListener("click", () => {
    if (away.dataset.sure) { change(row.key); tell(); } else { away.dataset.sure = "1"; away.textContent = "Throw it away for good"; }
  });
  form.append(fields, made("button", { className: "act main" }, "Send it again"), " ", away);
  form.addEventListener("submit", (event) => {
    event.preventDefault();
    for (const field of form.querySelectorAll("[name]")) body.set(field.name, field.value);
    change(row.key, { body: body.toString(), refused: false, said: "" });
    flush();
  });
  return form;
}

// What is being mended stays as it is while other entries come and go.
const mended = new Map();

function mendingOf(row) {
  const kept = mended.get(row.key);
  if (kept?.said === row.said) return kept.form;
  const form = mending(row);
  mended.set(row.key, { said: row.said, form });
  return form;
}

function tell() {
  if (!box) return;
  const focused = box.contains(document.activeElement) ? document.activeElement : null;
  const rows = entries(), wait = rows.filter((row) => !row.refused), refused = rows.filter((row) => row.refused);
  box.hidden = rows.length === 0;
  box.replaceChildren();
  if (wait.length) {
    const count = `${wait.length} ${wait.length === 1 ? "entry waits" : "entries wait"}`;
    const why = wait.find((row) => row.said)?.said ?? "It goes as soon as the shop answers.";
    box.append(made("p", {}, `${count} here to be sent; nothing is lost. ${why}`));
  }
  if (refused.length) {
    const count = refused.length === 1 ? "An entry" : `${refused.length} entries`;
    box.append(made("p", {}, made("strong", {}, `${count} could not be taken as written. Mend it here; until then it is not in the log.`)), ...refused.map(mendingOf));
  }
  if (focused?.isConnected) focused.focus();
}

// The shop's own sentences in the page it answered with.
async function sentences(answer) {
  const page = new DOMParser().parseFromString(await answer.text(), "text/html");
  const found = [...page.querySelectorAll(".error, .notice.error")].map((one) => {
    const label = saidOf(one.closest(".field")?.querySelector("label"));
    return `${label ? `${label}: ` : ""}${one.textContent}`.replace(/\s+/g, " ").trim();
  });
  return found.join(" ") || page.querySelector("main h1")?.textContent.trim() || `The shop answered ${answer.status}.`;
}

async function send(row) {
  let answer;
  try {
    const body = new URLSearchParams(row.body);
    answer = await fetch(row.action, { method: "POST", body, headers: { "X-CSRFToken": document.body.dataset.csrf } });
  } catch {
    return false;
  }
  if (answer.redirected && new URL(answer.url).pathname.startsWith("/login")) {
    change(row.key, { said: "Sign in, and it goes." });
  } else if (answer.ok) {
    change(row.key);
    return true;
  } else if (answer.status < 500) {
    change(row.key, { refused: true, said: await sentences(answer) });
  }
  return false;
}

let sending = false;

async function flush() {
  if (sending) return;
  sending = true;
  let went = false;
  for (const row of entries().filter((one) => !one.refused)) went = (await send(row)) || went;
  sending = false;
  tell();
  const half = [...document.querySelectorAll("main :is(input:not([type=hidden]), textarea)")].some((field) => field.value !== field.defaultValue);
  if (went && !half && entries().length === 0) location.reload();
}

document.addEventListener("submit", async (event) => {
  const form = event.target;
  if (!form.matches("form[data-bench]") || form.dataset.sending) return;
  event.preventDefault();
  form.dataset.sending = "1";
  const body = new URLSearchParams(new FormData(form));
  const action = form.action || location.href;
  try {
    await fetch(document.querySelector("link[rel=icon]").href, { method: "HEAD", cache: "no-store" });
  } catch {
    body.delete("csrfmiddlewaretoken");
    const about = document.querySelector("main h1")?.textContent.replace(/\s+/g, " ").trim();
    store([...entries(), { key: freshId(), action, about, body: body.toString(), labels: labelsOf(form) }]);
    tell();
    delete form.dataset.sending;
    form.reset();
    // what is written next on this page is another entry
    for (const field of form.querySelectorAll("input[name$=client_id], input[name=form_id]")) field.value = freshId();
    return;
  }
  form.submit();
});

document.addEventListener("htmx:afterSwap", (event) => giveIds(event.target));
window.addEventListener("online", flush);
giveIds(document);
tell();
flush();
setInterval(() => { if (entries().some((row) => !row.refused)) flush(); }, 15000);
