// What an answer of the server brings never overwrites what was typed or chosen since it was asked for, and a result that
// no longer belongs to what stands in its form is greyed until the next one comes.

const FIELDS = "input[name]:not([type=hidden], [type=file]), select[name], textarea[name]";
const asked = new WeakMap(); // by request: what the fields held that its answer will replace, and what its form held
let answered = null; // what the result shown now was reckoned from

const ticked = (field) => ["radio", "checkbox"].includes(field.type);
const keyOf = (field) => [field.form?.getAttribute("action") ?? "", field.dataset.is ?? field.name, ticked(field) ? field.value : ""].join(" ");
const valueOf = (field) => (ticked(field) ? field.checked : field.value);
const fieldsIn = (part) => new Map([...part.querySelectorAll(FIELDS)].map((field) => [keyOf(field), field]));

const reckoned = () => document.querySelector("form[hx-target='#result']");
const told = (form) => JSON.stringify([...new FormData(form)].filter(([name]) => !["csrfmiddlewaretoken", "form_id", "draft"].includes(name)));

function age() {
  const form = reckoned();
  if (!form) return;
  const old = answered !== null && answered !== told(form);
  form.classList.toggle("stale", old);
  document.getElementById("result")?.setAttribute("aria-busy", String(old));
}

const form = reckoned();
if (form && document.querySelector("#result .figures")) answered = told(form);
document.addEventListener("input", age);
document.addEventListener("change", age);

document.addEventListener("htmx:beforeRequest", ({ detail }) => {
  const held = new Map([...fieldsIn(detail.target)].map(([key, field]) => [key, valueOf(field)]));
  asked.set(detail.xhr, { held, told: reckoned() ? told(reckoned()) : null });
});

document.addEventListener("htmx:beforeSwap", ({ detail }) => {
  const before = asked.get(detail.xhr);
  if (!before) return;
  const now = fieldsIn(detail.target);
  before.since = [...now].filter(([key, field]) => before.held.has(key) && before.held.get(key) !== valueOf(field))
    .map(([key, field]) => [key, valueOf(field)]);
  const at = document.activeElement;
  if (at && detail.target.contains(at) && at.matches(FIELDS))
    before.at = { key: keyOf(at), from: at.selectionStart, to: at.selectionEnd };
});

document.addEventListener("htmx:afterSwap", ({ detail }) => {
  const before = asked.get(detail.xhr);
  if (!before) return;
  asked.delete(detail.xhr);
  const fresh = fieldsIn(document);
  let changed = null;
  for (const [key, value] of before.since ?? []) {
    const field = fresh.get(key);
    if (!field || (field.tagName === "SELECT" && ![...field.options].some((one) => one.value === value))) continue;
    if (ticked(field)) field.checked = value;
    else field.value = value;
    changed = field;
  }
  if (before.at && document.activeElement === document.body) {
    const field = fresh.get(before.at.key);
    field?.focus();
    if (typeof before.at.from === "number") field?.setSelectionRange?.(before.at.from, before.at.to);
  }
  if (detail.target.id === "result") answered = before.told;
  else if (changed) changed.dispatchEvent(new Event("change", { bubbles: true }));
  age();
});

// What was to come later and did not is said, and can be asked for again.
function came(event) {
  const late = event.detail.elt;
  if (!late.hasAttribute("hx-get") || !late.querySelector(":scope > .muted") || late.querySelector("form")) return;
  late.innerHTML = "<button type=\"button\" class=\"plain\">not reckoned; try again</button>";
  late.firstChild.addEventListener("click", () => {
    late.innerHTML = "<span class=\"muted\">…</span>";
    htmx.ajax("GET", late.getAttribute("hx-get"), { target: late, source: late });
  });
}
for (const fault of ["htmx:responseError", "htmx:sendError", "htmx:timeout"]) document.addEventListener(fault, came);
