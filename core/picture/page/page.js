"use strict";
(() => {
  const data = JSON.parse(document.getElementById("data").textContent);
  const figure = document.getElementById("map"), svg = figure.querySelector("svg"), world = document.getElementById("world");
  const ring = document.getElementById("ring"), dot = document.getElementById("dot"), said = document.getElementById("said");
  const frame = data.frame, items = new Map(data.items.map(i => [i.id, i]));
  const state = {z: 1, x: frame.x + frame.w / 2, y: frame.y + frame.h / 2, item: "", off: new Set()};
  const upright = [...world.querySelectorAll("text, g.pin")].map(e => ({e, x: +(e.dataset.x ?? e.getAttribute("x")), y: +(e.dataset.y ?? e.getAttribute("y"))}));

  const buttons = new Map([...document.querySelectorAll("#list button")].map(b => [b.dataset.item, b]));
  const drawn = {k: 1, off: "", item: ""}; // what need not be drawn again

  // The middle of the frame shows the place x, y of the drawing, z times as large.
  function show() {
    state.z = Math.min(Math.max(state.z, 0.5), 200);
    const tx = frame.x + frame.w / 2 - state.x * state.z, ty = frame.y + frame.h / 2 - state.y * state.z;
    world.setAttribute("transform", `translate(${tx} ${ty}) scale(${state.z})`);
    const k = 1 / state.z;
    if (k !== drawn.k) for (const u of upright) u.e.setAttribute("transform", k === 1 ? "" : `translate(${u.x * (1 - k)} ${u.y * (1 - k)}) scale(${k})`);
    const off = [...state.off].join(",");
    if (off !== drawn.off) for (const g of svg.querySelectorAll("g.layer")) g.classList.toggle("hidden", state.off.has(g.dataset.layer));
    for (const box of document.querySelectorAll("#layers input")) box.checked = !state.off.has(box.dataset.layer);
    dot.setAttribute("r", 6 * k);
    scale();
    if (state.item !== drawn.item) {
      buttons.get(drawn.item)?.setAttribute("aria-current", "false");
      buttons.get(state.item)?.setAttribute("aria-current", "true");
    }
    Object.assign(drawn, {k, off, item: state.item});
    const it = items.get(state.item);
    ring.classList.toggle("hidden", !it);
    if (it) {
      const pad = 8 * k;
      ring.setAttribute("x", it.box.x - pad); ring.setAttribute("y", it.box.y - pad);
      ring.setAttribute("width", it.box.w + 2 * pad); ring.setAttribute("height", it.box.h + 2 * pad);
      if (it.kind === "waypoint") {
        ring.setAttribute("x", it.x - 14 * k); ring.setAttribute("y", it.y - 14 * k);
        ring.setAttribute("width", 28 * k); ring.setAttribute("height", 28 * k);
      }
      ring.setAttribute("rx", pad);
      said.textContent = `${it.kind} ${it.name || "without a name"}: ${it.details}`;
    }
    if (!fingers.size) locate(state.x, state.y);
    document.documentElement.dataset.zoom = state.z.toFixed(2);
    document.documentElement.dataset.item = state.item;
  }
  // A bar of a round length, at most 150 pixels long.
  function scale() {
    let name = data.measure, unit = data.unit;
    const perPx = data.metres / state.z;
    if (150 * perPx < unit) { name = "m"; unit = 1; }
    const most = 150 * perPx / unit, p = 10 ** Math.floor(Math.log10(most));
    const length = [5, 2, 1].map(k => k * p).find(l => l <= most * 1.0001) || p;
    document.getElementById("bar").setAttribute("width", length * unit / perPx);
    document.getElementById("length").textContent = `${+length.toPrecision(3)} ${name}`;
  }
  // The position of a place of the drawing (J. P. Snyder, USGS Professional Paper 1395, 3-1, 21-14 and 21-15).
  function position(x, y) {
    const g = data.ground, east = (x - g.x) * data.metres, north = (g.y - y) * data.metres, r = Math.hypot(east, north);
    if (r === 0) return [g.lat0, g.lon0];
    const c = 2 * Math.atan(r / (2 * g.radius)), sin = Math.sin(c), cos = Math.cos(c);
    const chi = Math.max(-1, Math.min(1, cos * g.sin0 + north * sin * g.cos0 / r)), psi = Math.atanh(chi);
    let s = chi;
    for (let i = 0; i < 6; i++) s = Math.tanh(psi + g.e * Math.atanh(g.e * s));
    const lon = g.lon0 + Math.atan2(east * sin, r * g.cos0 * cos - north * g.sin0 * sin) * 180 / Math.PI;
    return [Math.asin(s) * 180 / Math.PI, ((lon + 180) % 360 + 360) % 360 - 180];
  }
  function angle(v, digits, letters) {
    const m = Math.round(Math.abs(v) * 60000), whole = Math.floor(m / 60000);
    return `${String(whole).padStart(digits, "0")}°${((m - whole * 60000) / 1000).toFixed(3).padStart(6, "0")}′ ${letters[v < 0 ? 1 : 0]}`;
  }
  // Distance and first course on the ellipsoid, to its first order (H. Andoyer, in W. D. Lambert, 1942).
  function way(from, to) {
    const rad = Math.PI / 180, g = data.ground, f1 = from[0] * rad, f2 = to[0] * rad, l = (to[1] - from[1]) * rad;
    const F = (f1 + f2) / 2, G = (f1 - f2) / 2, L = l / 2;
    const sq = v => v * v, S = sq(Math.sin(G) * Math.cos(L)) + sq(Math.cos(F) * Math.sin(L));
    const C = sq(Math.cos(G) * Math.cos(L)) + sq(Math.sin(F) * Math.sin(L));
    if (S === 0 || C === 0) return [0, 0];
    const w = Math.atan(Math.sqrt(S / C)), R = Math.sqrt(S * C) / w;
    const H = (3 * R - 1) / (2 * C) * sq(Math.sin(F) * Math.cos(G)), K = (3 * R + 1) / (2 * S) * sq(Math.cos(F) * Math.sin(G));
    const course = Math.atan2(Math.sin(l) * Math.cos(f2), Math.cos(f1) * Math.sin(f2) - Math.sin(f1) * Math.cos(f2) * Math.cos(l));
    return [2 * w * g.a * (1 + g.f * (H - K)), (course / rad + 360) % 360];
  }
  const where = document.getElementById("where");
  // Says where a place of the drawing is, and how far from the waypoint that is chosen.
  function locate(x, y) {
    if (!data.ground) return;
    const at = position(x, y), it = items.get(state.item);
    let text = `${angle(at[0], 2, "NS")} ${angle(at[1], 3, "EW")}`;
    if (it && it.kind === "waypoint") {
      const [metres, course] = way(position(it.x, it.y), at);
      const far = metres < data.unit ? `${metres.toFixed(0)} m` : `${(metres / data.unit).toFixed(2)} ${data.measure}`;
      text += `: ${far}, ${String(Math.round(course) % 360).padStart(3, "0")}° true from ${it.name || "the waypoint"}`;
    }
    where.textContent = text;
  }
  const find = document.getElementById("find"), found = document.getElementById("found");
  const rows = [...document.querySelectorAll("#list li")].map(e => ({e, text: e.textContent.toLowerCase()}));
  function filter() {
    const words = find.value.toLowerCase().split(/\s+/).filter(Boolean);
    let n = 0;
    for (const r of rows) {
      const on = words.every(w => r.text.includes(w));
      r.e.classList.toggle("hidden", !on);
      if (on) n++;
    }
    found.textContent = words.length ? `${n} of ${rows.length}` : "";
  }
  find.addEventListener("input", () => { filter(); remember(); });
  function remember() {
    const p = new URLSearchParams();
    if (state.item) p.set("item", state.item);
    if (state.z !== 1) { p.set("z", state.z.toFixed(2)); p.set("at", `${state.x.toFixed(1)},${state.y.toFixed(1)}`); }
    if (find.value) p.set("find", find.value);
    if (state.off.size) p.set("off", [...state.off].join(","));
    const text = p.toString();
    try { history.replaceState(null, "", text ? "#" + text : location.pathname + location.search); } catch { /* a page from a folder may not */ }
    show();
  }
  function recall() {
    const p = new URLSearchParams(location.hash.slice(1));
    state.off = new Set((p.get("off") || "").split(",").filter(Boolean));
    state.item = "";
    state.z = +(p.get("z") || 1) || 1;
    const at = (p.get("at") || "").split(",").map(Number);
    [state.x, state.y] = at.length === 2 && at.every(Number.isFinite) ? at : [frame.x + frame.w / 2, frame.y + frame.h / 2];
    find.value = p.get("find") || "";
    filter();
    const item = p.get("item");
    if (item && items.has(item)) choose(item, p.has("z"));
    show();
  }
  function choose(id, keep) {
    const it = items.get(id);
    if (!it) return;
    state.item = id;
    if (keep) return;
    state.x = it.kind === "waypoint" ? it.x : it.box.x + it.box.w / 2;
    state.y = it.kind === "waypoint" ? it.y : it.box.y + it.box.h / 2;
    const fit = Math.min(frame.w * 0.8 / Math.max(it.box.w, 1), frame.h * 0.8 / Math.max(it.box.h, 1));
    state.z = it.kind === "waypoint" ? Math.max(state.z, 3) : Math.min(Math.max(fit, 1), 12);
  }
  function point(e) {
    const m = svg.getScreenCTM();
    return {x: (e.clientX - m.e) / m.a, y: (e.clientY - m.f) / m.d};
  }
  function zoom(factor, at) {
    at = at || {x: frame.x + frame.w / 2, y: frame.y + frame.h / 2};
    const dx = (at.x - frame.x - frame.w / 2) / state.z, dy = (at.y - frame.y - frame.h / 2) / state.z;
    const before = state.z;
    state.z = Math.min(Math.max(state.z * factor, 0.5), 200);
    state.x += dx - dx * before / state.z; state.y += dy - dy * before / state.z;
  }
  function all() { Object.assign(state, {z: 1, x: frame.x + frame.w / 2, y: frame.y + frame.h / 2, item: ""}); said.textContent = ""; }

  const fingers = new Map();
  let moved = 0;
  figure.addEventListener("pointerdown", e => {
    if (e.target.closest("button")) return;
    fingers.set(e.pointerId, point(e)); moved = 0;
    figure.setPointerCapture(e.pointerId); figure.classList.add("moving");
  });
  figure.addEventListener("pointermove", e => {
    const now = point(e), was = fingers.get(e.pointerId);
    locate(state.x + (now.x - frame.x - frame.w / 2) / state.z, state.y + (now.y - frame.y - frame.h / 2) / state.z);
    if (!was) { hover(now); return; }
    if (fingers.size === 1) {
      state.x -= (now.x - was.x) / state.z; state.y -= (now.y - was.y) / state.z;
      moved += Math.abs(now.x - was.x) + Math.abs(now.y - was.y);
    } else {
      const other = [...fingers].find(([id]) => id !== e.pointerId)[1];
      const a = Math.hypot(was.x - other.x, was.y - other.y), b = Math.hypot(now.x - other.x, now.y - other.y);
      if (a > 0) zoom(b / a, other);
      moved = 99;
    }
    fingers.set(e.pointerId, now); show();
  });
  const lift = e => {
    if (!fingers.delete(e.pointerId)) return;
    figure.classList.remove("moving");
    if (moved < 4 && e.type === "pointerup") {
      const hit = document.elementsFromPoint(e.clientX, e.clientY).map(n => n.closest("[data-item]")).find(n => n && svg.contains(n));
      if (hit) choose(hit.dataset.item, true); else { state.item = ""; said.textContent = ""; }
    }
    remember();
  };
  figure.addEventListener("pointerup", lift);
  figure.addEventListener("pointercancel", lift);
  figure.addEventListener("wheel", e => { e.preventDefault(); zoom(Math.exp(-e.deltaY / 400), point(e)); remember(); }, {passive: false});
  figure.addEventListener("keydown", e => {
    const step = 60 / state.z;
    const keys = {ArrowLeft: () => state.x -= step, ArrowRight: () => state.x += step, ArrowUp: () => state.y -= step, ArrowDown: () => state.y += step,
      "+": () => zoom(1.5), "=": () => zoom(1.5), "-": () => zoom(1 / 1.5), "0": all, Escape: () => { state.item = ""; said.textContent = ""; }};
    if (!keys[e.key]) return;
    e.preventDefault(); keys[e.key](); remember();
  });
  document.addEventListener("click", e => {
    const b = e.target.closest("button");
    if (!b) return;
    if (b.dataset.item) choose(b.dataset.item);
    const act = {in: () => zoom(1.6), out: () => zoom(1 / 1.6), all}[b.dataset.do];
    if (act) act();
    remember();
  });
  document.getElementById("layers").addEventListener("change", e => {
    const l = e.target.dataset.layer;
    if (e.target.checked) state.off.delete(l); else state.off.add(l);
    remember();
  });

  // The pointer on the profile is shown on the map, and the other way around.
  const profile = document.getElementById("profile");
  const line = document.getElementById("line");
  function mark(s) {
    const none = !s;
    dot.classList.toggle("hidden", none); if (line) line.classList.toggle("hidden", none);
    if (none) return;
    dot.setAttribute("cx", s[1]); dot.setAttribute("cy", s[2]);
    if (line) { line.setAttribute("x1", s[0]); line.setAttribute("x2", s[0]); }
    said.textContent = s[3];
  }
  function hover(p) {
    if (!data.samples.length) return;
    const x = state.x + (p.x - frame.x - frame.w / 2) / state.z, y = state.y + (p.y - frame.y - frame.h / 2) / state.z;
    let best = null, least = 20 / state.z;
    for (const s of data.samples) { const d = Math.hypot(s[1] - x, s[2] - y); if (d < least) { least = d; best = s; } }
    mark(best);
  }
  if (profile) profile.addEventListener("pointermove", e => {
    const m = profile.querySelector("svg").getScreenCTM(), x = (e.clientX - m.e) / m.a;
    let best = null, least = 12;
    for (const s of data.samples) { const d = Math.abs(s[0] - x); if (d < least) { least = d; best = s; } }
    mark(best);
  });
  addEventListener("hashchange", recall);
  recall();
})();
