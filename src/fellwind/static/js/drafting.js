// The bow as its maker draws it: points are dragged or stepped, buttons act. The server reckons; here is only where the
// pointer went, and which place was open.

const form = () => document.getElementById("design-form");
let focusAfter = null;
let openAfter = null;
let held = null;

const AWAY = "fellwind-drafting";
const valuesOf = (from) => Object.fromEntries([...new FormData(from).entries()].filter(([name]) => !["csrfmiddlewaretoken", "form_id"].includes(name)));

function act(extra, values = valuesOf(form())) {
  const from = form();
  const open = from.querySelector(".place-of[open]");
  openAfter = open ? open.dataset.placeOf : null;
  const headers = { "X-CSRFToken": document.body.dataset.csrf };
  htmx.ajax("POST", from.dataset.shape, { target: "#design-form", swap: "outerHTML", values: { ...values, ...extra }, headers });
}

// Rows that came by an act are on no fresh page: the whole form goes along when the units are switched.
document.addEventListener("submit", (event) => {
  if (event.target.matches("[data-units]") && form()?.dataset.acted !== undefined)
    sessionStorage.setItem(AWAY, JSON.stringify({ where: location.pathname, values: valuesOf(form()) }));
}, true);
window.addEventListener("load", () => {
  const away = JSON.parse(sessionStorage.getItem(AWAY) ?? "null");
  sessionStorage.removeItem(AWAY);
  if (away && form() && away.where === location.pathname) act({ action: "world" }, away.values);
});

function place(svg, event) {
  return new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
}

document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-shape-act]");
  if (button && form()) act(JSON.parse(button.dataset.shapeAct));
});

// What somebody has touched is theirs; what nobody has touched follows what it hangs on.
document.addEventListener("change", (event) => {
  const field = event.target;
  if (!field.name || !form()?.contains(field) || field.type === "hidden") return;
  const touched = form().elements.namedItem("touched");
  if (!touched.value.split(",").includes(field.name)) touched.value += `${touched.value ? "," : ""}${field.name}`;
  if (field.dataset.follow) act({ action: "follow", what: field.dataset.follow });
});

document.addEventListener("htmx:afterSwap", (event) => {
  if (!form() || !event.detail.pathInfo?.requestPath.endsWith("/shape/")) return; // other parts are made anew meanwhile
  if (openAfter) {
    const again = form().querySelector(`[data-place-of="${openAfter}"]`);
    if (again) again.open = true;
    openAfter = null;
  }
  if (focusAfter) {
    form().querySelector(`[data-point="${focusAfter}"]`)?.focus();
    focusAfter = null;
  }
});

document.addEventListener("keydown", (event) => {
  const point = event.target.closest?.("[data-point]");
  const way = { ArrowUp: "up", ArrowDown: "down", ArrowLeft: "left", ArrowRight: "right" }[event.key];
  if (!point || !way) return;
  event.preventDefault();
  event.stopPropagation();
  focusAfter = point.dataset.point;
  act({ action: "move", point: point.dataset.point, nudge: way });
});

document.addEventListener("pointerdown", (event) => {
  const point = event.target.closest?.("[data-point]");
  if (!point) return;
  const svg = point.ownerSVGElement;
  held = { point, svg, from: place(svg, event), free: point.dataset.moves === "both" };
  point.focus();
  event.preventDefault();
});
document.addEventListener("pointermove", (event) => {
  if (!held) return;
  const to = place(held.svg, event);
  held.point.setAttribute("transform", `translate(${held.free ? to.x - held.from.x : 0} ${to.y - held.from.y})`);
});
document.addEventListener("pointerup", (event) => {
  if (!held) return;
  const { point, svg, from, free } = held;
  held = null;
  const to = place(svg, event);
  const dx = free ? to.x - from.x : 0;
  const dy = to.y - from.y;
  if (Math.hypot(dx, dy) < 1) { point.removeAttribute("transform"); return; }
  focusAfter = point.dataset.point;
  act({ action: "move", point: point.dataset.point, dx, dy });
});
