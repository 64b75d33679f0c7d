// The queue of bench entries, for pages and for the service worker: written first, sent in order, removed only when
// the shop says that it kept it. Rows: {order, id, action, about, said, state, body, labels, written, who}; state is
// "waits" or "refused", said is the sentence that goes with it.

const NAME = "fellwind", STORE = "entries";
export const channel = "BroadcastChannel" in globalThis ? new BroadcastChannel(NAME) : null;
const SECONDS = 20; // a shop that does not answer within these is away

function opened() {
  return new Promise((resolve, reject) => {
    const asked = indexedDB.open(NAME, 1);
    asked.onupgradeneeded = () => asked.result.createObjectStore(STORE, { keyPath: "order", autoIncrement: true }).createIndex("id", "id", { unique: true });
    asked.onsuccess = () => resolve(asked.result);
    asked.onerror = () => reject(asked.error);
    asked.onblocked = () => reject(new Error("blocked"));
  });
}

// Run one transaction; what it wrote is on the disk when this resolves.
async function run(mode, act) {
  const data = await opened();
  try {
    return await new Promise((resolve, reject) => {
      const work = data.transaction(STORE, mode, mode === "readwrite" ? { durability: "strict" } : undefined);
      let found;
      act(work.objectStore(STORE), (value) => { found = value; });
      work.oncomplete = () => resolve(found);
      work.onabort = work.onerror = () => reject(work.error);
    });
  } finally {
    data.close();
  }
}

export const entries = () => run("readonly", (store, give) => { store.getAll().onsuccess = (event) => give(event.target.result); });

// A second entry of one id takes the place of the first: it was mended.
export const write = (row) => run("readwrite", (store) => {
  store.index("id").get(row.id).onsuccess = (event) => {
    const before = event.target.result;
    store.put(before ? { ...before, ...row, order: before.order } : { state: "waits", said: "", ...row });
  };
});

// Another tab may have written meanwhile: only what is named changes, and only while the entry is still here.
export const change = (id, to) => run("readwrite", (store) => {
  store.index("id").get(id).onsuccess = (event) => {
    const before = event.target.result;
    if (before) store.put({ ...before, ...to });
  };
});

export const remove = (id) => run("readwrite", (store) => {
  store.index("id").getKey(id).onsuccess = (event) => { if (event.target.result !== undefined) store.delete(event.target.result); };
});

// A pencil line for a bow, that nobody could read back yet.
export const writeLine = (action, about, line, world, who) => {
  const id = freshId();
  const body = new URLSearchParams({ line, page_world: world, client_id: id }).toString();
  return write({ id, action, about, body, labels: [{ name: "line", label: "Pencil line" }], written: Date.now(), who });
};

export function freshId() {
  if (crypto.randomUUID) return crypto.randomUUID();
  const bytes = crypto.getRandomValues(new Uint8Array(16)); // over plain HTTP there is only this
  bytes[6] = (bytes[6] & 0x0f) | 0x40;
  bytes[8] = (bytes[8] & 0x3f) | 0x80;
  const hex = [...bytes].map((b) => b.toString(16).padStart(2, "0")).join("");
  return `${hex.slice(0, 8)}-${hex.slice(8, 12)}-${hex.slice(12, 16)}-${hex.slice(16, 20)}-${hex.slice(20)}`;
}

async function asked(where, options = {}) {
  const headers = { "X-Queue": "1", ...options.headers };
  return fetch(where, { ...options, headers, cache: "no-store", credentials: "same-origin", signal: AbortSignal.timeout(SECONDS * 1000) });
}

// Who is signed in, and the token that their forms need; null while the shop does not answer as it should.
async function door() {
  try {
    const answer = await asked("/queue/");
    if (answer.status === 401) return { who: "" };
    return answer.ok ? await answer.json() : null;
  } catch {
    return null;
  }
}

const AWAY = "It goes as soon as the shop answers.";
const WHY = {
  503: "The shop is busy; it is tried again.",
  507: "The disk of the shop's computer is full. Make room there, and it goes.",
};

async function send(row, token) {
  const ago = Math.max(0, Date.now() - row.written);
  const body = new URLSearchParams(row.body);
  body.set("form_id", row.id);
  const headers = { "X-CSRFToken": token, "X-Written-Ago": String(ago) };
  let answer;
  try {
    answer = await asked(row.action, { method: "POST", body, headers });
    if (answer.ok) {
      const said = await answer.json(); // whatever is not the shop's own word for "kept" throws, and the entry stays
      if (said.kept !== row.id) throw new Error("kept another");
      await remove(row.id);
      return { row, kept: said.at ?? Date.now(), location: said.location };
    }
  } catch {
    await change(row.id, { said: AWAY });
    return { row, stop: true };
  }
  const page = await answer.text().catch(() => "");
  if (answer.status === 401) {
    await change(row.id, { said: "Sign in, and it goes." });
    return { row, stop: true };
  }
  if (answer.status >= 500 || answer.status === 429) {
    await change(row.id, { said: WHY[answer.status] ?? `The shop answered ${answer.status}, so it is not kept yet; it is tried again.` });
    return { row, stop: answer.status !== 500 }; // one that breaks the shop does not hold up the others
  }
  await change(row.id, { state: "refused", said: "", page });
  return { row, refused: true, page };
}

let running = null, again = false;

// Send what waits, in order. Returns what became of each; one run at a time.
export async function flush() {
  if (running) { again = true; return running; }
  running = (async () => {
    const told = [];
    do {
      again = false;
      const waiting = (await entries()).filter((row) => row.state === "waits");
      if (!waiting.length) break;
      const open = await door();
      for (const row of waiting) {
        if (!open) { await change(row.id, { said: AWAY }); continue; }
        if (!open.who) { await change(row.id, { said: "Sign in, and it goes." }); continue; }
        if (row.who && row.who !== open.who) {
          await change(row.id, { said: `${row.who} wrote it; it goes when ${row.who} signs in here.`, other: open.who });
          continue;
        }
        const one = await send(row, open.csrf);
        told.push(one);
        if (one.stop) break;
      }
    } while (again);
    running = null; // whoever asks from here on is not late for this run, but begins another
    channel?.postMessage("changed");
    return told;
  })();
  return running.catch((error) => { running = null; throw error; });
}
