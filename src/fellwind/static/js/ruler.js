// The hairline: one line through all tracks, and the figures of its place in one strip.
// Every text comes from the server; nothing is computed here but which place is nearest.

function setUp(ruler) {
  const places = JSON.parse(ruler.dataset.places);
  const picture = ruler.querySelector("svg");
  const hairline = ruler.querySelector(".hairline");
  const strip = ruler.querySelector(".strip");
  let index = -1;

  function show(next) {
    index = Math.max(0, Math.min(places.length - 1, next));
    const { x, text } = places[index];
    hairline.setAttribute("x1", x);
    hairline.setAttribute("x2", x);
    hairline.setAttribute("visibility", "visible");
    strip.textContent = text;
  }

  function nearest(event) {
    const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(picture.getScreenCTM().inverse());
    let best = 0;
    places.forEach((place, i) => { if (Math.abs(place.x - point.x) < Math.abs(places[best].x - point.x)) best = i; });
    show(best);
  }

  picture.addEventListener("pointermove", nearest);
  picture.addEventListener("pointerdown", nearest);
  ruler.addEventListener("keydown", (event) => {
    const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (!step) return;
    event.preventDefault();
    show(index < 0 ? Math.floor(places.length / 2) : index + step);
  });
}

const setUpAll = (root) => root.querySelectorAll("[data-ruler]").forEach(setUp);
setUpAll(document);
document.addEventListener("htmx:afterSwap", (event) => setUpAll(event.target));
