// Where what waits is kept: in this browser's database, through reloads and closed tabs. Where that takes nothing (a full
// phone, a browser that may keep nothing) this tab holds it, from page to page; only its photos end with the page.
const OPENING_MS = 4000; // some browsers never answer
const STORES = ["waiting", "refused"];
const IN_TAB = "outbox";

const late = () => new Promise((resolve, reject) => setTimeout(() => reject(new Error("no database")), OPENING_MS));
const upgrade = (db) => STORES.forEach((store) => db.createObjectStore(store, { keyPath: "n", autoIncrement: true }));
let opening = null, none = false;
const open = async () => {
  if (none) throw new Error("no database");
  opening ||= Promise.race([idb.openDB("dry-gauge", 1, { upgrade, terminated: () => { opening = null; } }), late()]);
  return opening;
};
open().catch(() => { none = true; });
// A phone that slept may have dropped the connection: then once more on a new one.
const inDatabase = async (work) => {
  try { return await work(await open()); } catch (error) {
    if (none || error.name === "QuotaExceededError") throw error;
    opening = null;
    return work(await open());
  }
};

const inTab = (() => {
  try { return JSON.parse(sessionStorage.getItem(IN_TAB)) || []; } catch { return []; }
})();
let written = true;
const write = () => {
  const texts = inTab.filter(({ record }) => !record.file);
  try {
    sessionStorage.setItem(IN_TAB, JSON.stringify(texts));
    written = texts.length === inTab.length;
  } catch {
    written = !inTab.length;
  }
};
const hold = (store, record) => {
  const n = Math.min(0, ...inTab.map((held) => held.record.n)) - 1;
  inTab.push({ store, record: { ...record, n } });
  write();
  return n;
};
const held = (store) => inTab.filter((one) => one.store === store).map(({ record }) => record);
window.addEventListener("beforeunload", (event) => { if (!written) event.preventDefault(); }); // what would end with the page

// Resolves with its number: a negative one is held by this tab only.
export const add = (store, record) => inDatabase((db) => db.add(store, record)).catch(() => hold(store, record));
export const remove = async (store, n) => {
  if (n > 0) return inDatabase((db) => db.delete(store, n));
  inTab.splice(0, inTab.length, ...inTab.filter((one) => one.record.n !== n));
  write();
};
export const replace = async (store, record) => {
  if (record.n > 0) return inDatabase((db) => db.put(store, record));
  Object.assign(inTab.find((one) => one.record.n === record.n).record, record);
  write();
};
export const all = async (store, most) =>
  [...await inDatabase((db) => db.getAll(store, undefined, most)).catch(() => []), ...held(store)];
export const count = async (store) => await inDatabase((db) => db.count(store)).catch(() => 0) + held(store).length;

const firstInDatabase = async (db, store, fits) => {
  for (let cursor = await db.transaction(store).store.openCursor(); cursor; cursor = await cursor.continue()) {
    if (fits(cursor.value)) return cursor.value;
  }
  return null;
};
// The one that was put here first.
export const first = async (store, fits) => {
  const there = await inDatabase((db) => firstInDatabase(db, store, fits)).catch(() => null);
  const here = held(store).find(fits) || null;
  return there && here ? (here.at < there.at ? here : there) : there || here;
};

// Asks the browser not to clear what it keeps here when room gets scarce; some ask the person, so only once there is something.
let asked = false;
export const stay = () => {
  if (asked || !navigator.storage || !navigator.storage.persist) return;
  asked = true;
  navigator.storage.persist().catch(() => {});
};
