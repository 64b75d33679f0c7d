// Bench entries carry an id made here, so that a repeated send is one entry. What could not be sent waits in
// the browser and is sent when the server answers again.

const STORE = "fellwind-unsent";
const waiting = () => JSON.parse(localStorage.getItem(STORE) ?? "[]");
const keep = (rows) => localStorage.setItem(STORE, JSON.stringify(rows));

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

function tell() {
  const box = document.getElementById("unsent");
  const count = waiting().length;
  if (!box) return;
  box.hidden = count === 0;
  box.textContent = `${count} ${count === 1 ? "entry waits" : "entries wait"} here to be sent; nothing is lost. It goes as soon as the shop answers.`;
}

async function flush() {
  const rows = waiting();
  if (rows.length === 0) return;
  const left = [];
  for (const row of rows) {
    try {
      const answer = await fetch(row.action, { method: "POST", body: new URLSearchParams(row.body), headers: { "X-CSRFToken": document.body.dataset.csrf } });
      if (!answer.ok && answer.status !== 422) left.push(row);
    } catch { left.push(row); }
  }
  keep(left);
  tell();
  if (left.length === 0) location.reload();
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
    keep([...waiting(), { action, body: body.toString() }]);
    tell();
    delete form.dataset.sending;
    form.reset();
    for (const field of form.querySelectorAll("input[name$=client_id]")) field.value = freshId();
    return;
  }
  form.submit();
});

document.addEventListener("htmx:afterSwap", (event) => giveIds(event.target));
window.addEventListener("online", flush);
giveIds(document);
tell();
flush();
if (waiting().length) setInterval(flush, 15000);
