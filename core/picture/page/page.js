"use strict";
(() => {
  const data = JSON.parse(document.getElementById("data").textContent);
  const byId = id => document.getElementById(id);
  const figure = byId("map"), svg = byId("chart"), over = byId("over"), ring = byId("ring"), dot = byId("dot"), said = byId("said");
  const [fx, fy, fw, fh] = data.frame, items = new Map(data.items.map(i => [i.id, i]));
  const state = {z: 1, x: fx + fw / 2, y: fy + fh / 2, item: "", off: new Set()};
  const drawn = {s: 0, x: 0, y: 0, off: "-", item: ""}; // what was drawn last
  const most = 200, least = 0.2; // of the zoom

  function element(name, attributes, parent, text) {
    const e = document.createElementNS("http://www.w3.org/2000/svg", name);
    for (const [k, v] of Object.entries(attributes)) e.setAttribute(k, v);
    if (text !== undefined) e.textContent = text;
    parent.append(e);
    return e;
  }
  const size = () => svg ? [svg.clientWidth || fw, svg.clientHeight || fh] : [fw, fh];
  // Pixels of the window to one of the drawing: at a zoom of 1 all of the frame fits.
  const pixels = () => { const [w, h] = size(); return state.z * Math.min(w / fw, h / fh); };
  // The places x, y of the drawing in the window, and back.
  const toWindow = (x, y) => { const [w, h] = size(), s = pixels(); return [(x - state.x) * s + w / 2, (y - state.y) * s + h / 2]; };
  const toDrawing = (x, y) => { const [w, h] = size(), s = pixels(); return [(x - w / 2) / s + state.x, (y - h / 2) / s + state.y]; };

  function show() {
    state.z = Math.min(Math.max(state.z, least), most);
    const off = [...state.off].join(",");
    if (svg) chart(off);
    for (const box of document.querySelectorAll("#layers input")) box.checked = !state.off.has(box.dataset.layer);
    if (state.item !== drawn.item) {
      row(drawn.item)?.setAttribute("aria-current", "false");
      row(state.item)?.setAttribute("aria-current", "true");
    }
    Object.assign(drawn, {off, item: state.item});
    const it = items.get(state.item);
    if (it) said.textContent = `${it.kind} ${it.name || "without a name"}: ${it.details || ""}`;
    document.documentElement.dataset.zoom = state.z.toFixed(2);
    document.documentElement.dataset.item = state.item;
  }
  function chart(off) {
    const [w, h] = size(), s = pixels(), [tx, ty] = toWindow(0, 0);
    svg.setAttribute("viewBox", `0 0 ${w} ${h}`);
    for (const g of document.querySelectorAll(".world")) g.setAttribute("transform", `translate(${tx} ${ty}) scale(${s})`);
    if (off !== drawn.off) for (const g of svg.querySelectorAll("g.layer")) g.classList.toggle("hidden", state.off.has(g.dataset.layer));
    const dx = (drawn.x - state.x) * s, dy = (drawn.y - state.y) * s; // since the pins were placed
    if (s !== drawn.s || off !== drawn.off || Math.abs(dx) > w * margin || Math.abs(dy) > h * margin || w !== drawn.w || h !== drawn.h) {
      Object.assign(drawn, {s, x: state.x, y: state.y, w, h});
      over.setAttribute("transform", "");
      place(w, h);
    } else over.setAttribute("transform", `translate(${dx} ${dy})`);
    if (!state.off.has("grid")) grid(w, h);
    byId("scale").setAttribute("transform", `translate(${w - 200} ${h - 44})`);
    scale(s);
    const here = position(state.x, state.y), up = forward(Math.min(here[0] + 0.001, 90), here[1]), at = forward(...here);
    byId("north").setAttribute("transform", `translate(${w - 27} 35) rotate(${Math.atan2(up[0] - at[0], at[1] - up[1]) * 180 / Math.PI})`);
    dot.setAttribute("r", 6 / s);
    const it = items.get(state.item);
    ring.classList.toggle("hidden", !it);
    if (it) {
      const pad = 8 / s, [x, y, bw, bh] = it.box || [it.x, it.y, 0, 0], extra = it.box ? pad : 14 / s;
      for (const [k, v] of Object.entries({x: x - extra, y: y - extra, width: bw + 2 * extra, height: bh + 2 * extra, rx: pad})) ring.setAttribute(k, v);
    }
    if (!fingers.size) locate(state.x, state.y);
  }

  // Pins and labels are placed for the window and a margin about it: where there are many, one pin to a cell of a few
  // pixels, and the labels that have room.
  const margin = 0.3, manyPins = 1500, mostLabels = 500, cell = 64;
  const pen = document.createElement("canvas").getContext("2d"), widths = new Map();
  function width(text, style) {
    const key = style.size + (style.bold ? "b" : " ") + text;
    if (!widths.has(key)) {
      if (pen) pen.font = `${style.bold ? "bold " : ""}${style.size}px "Go","Liberation Sans","DejaVu Sans",Arial,sans-serif`;
      widths.set(key, pen ? pen.measureText(text).width : text.length * style.size * 0.6);
    }
    return widths.get(key);
  }
  function place(w, h) {
    over.replaceChildren();
    const mx = w * margin, my = h * margin, seen = new Set(), taken = new Map();
    const near = (x, y) => x > -mx && x < w + mx && y > -my && y < h + my;
    const cells = (r, visit) => { for (let y = Math.floor(r[1] / cell); y <= Math.floor((r[1] + r[3]) / cell); y++) for (let x = Math.floor(r[0] / cell); x <= Math.floor((r[0] + r[2]) / cell); x++) visit(`${x},${y}`); };
    const take = r => cells(r, c => { if (!taken.has(c)) taken.set(c, []); taken.get(c).push(r); });
    const free = r => { let ok = true; cells(r, c => { for (const o of taken.get(c) || []) if (r[0] < o[0] + o[2] && o[0] < r[0] + r[2] && r[1] < o[1] + o[3] && o[1] < r[1] + r[3]) ok = false; }); return ok; };
    const pins = [];
    for (const p of data.pins) {
      if (state.off.has(data.layers[p[4]])) continue;
      const [x, y] = toWindow(p[0], p[1]);
      if (near(x, y)) pins.push([x, y, p]);
    }
    const gap = pins.length > manyPins ? 7 : 0.5;
    for (const [x, y, p] of pins) {
      const key = `${Math.round(x / gap)},${Math.round(y / gap)},${gap < 1 ? p[2] : ""}`;
      if (seen.has(key)) continue;
      seen.add(key);
      take([x - 7, y - 7, 14, 14]);
      const it = data.items[p[3]], use = element("use", {href: `#look-${p[2]}`, x, y}, over);
      if (it) use.dataset.item = it.id;
      const title = p[5] ?? it?.name;
      if (title) element("title", {}, use, title);
    }
    if (state.off.has("names")) return;
    let n = 0;
    for (const l of data.labels) {
      const style = data.styles[l[2]], size = style.size, long = width(l[0], style);
      let done = false;
      for (let i = 3; i < l.length && !done; i += 2) {
        const [x, y] = toWindow(l[i], l[i + 1]);
        if (!near(x, y)) continue;
        const g = style.gap, sides = [[g, size * 0.36, 0], [-g, size * 0.36, 1], [0, -g - size * 0.15, 0.5], [0, g + size * 0.85, 0.5],
          [g * 0.8, -g * 0.7, 0], [g * 0.8, g * 0.7 + size * 0.7, 0], [-g * 0.8, -g * 0.7, 1], [-g * 0.8, g * 0.7 + size * 0.7, 1]];
        if (g === 0) sides.unshift([0, size * 0.36, 0.5]);
        for (const [ox, oy, anchor] of sides) {
          const r = [x + ox - long * anchor - 2, y + oy - size * 0.8, long + 4, size * 1.05];
          if (!free(r)) continue;
          take(r);
          const e = element("text", {x: x + ox, y: y + oy, "font-size": size, "text-anchor": ["start", "middle", "end"][anchor * 2], fill: style.ink}, over, l[0]);
          if (style.bold) e.setAttribute("font-weight", "bold");
          if (data.items[l[1]]) e.dataset.item = data.items[l[1]].id;
          done = true;
          break;
        }
      }
      if (done && ++n >= mostLabels) break;
    }
  }
  // Lines of latitude and longitude of whole degrees, minutes or seconds, with their numbers at the window's edge.
  const steps = [108000, 72000, 36000, 18000, 7200, 3600, 1800, 1200, 600, 300, 120, 60, 30, 20, 10, 5, 2, 1];
  function grid(w, h) {
    const g = byId("grid"), middle = position(...toDrawing(w / 2, h / 2));
    g.replaceChildren();
    let south = 90, north = -90, west = 180, east = -180;
    for (let i = 0; i <= 64; i++) {
      const [lat, lon] = position(...toDrawing(w * (i % 9) / 8, h * (i / 9 | 0) / 7)), off = ((lon - middle[1] + 540) % 360) - 180;
      south = Math.min(south, lat); north = Math.max(north, lat); west = Math.min(west, off); east = Math.max(east, off);
    }
    if (!(north > south && east > west)) return;
    const step = span => steps.find(s => span * 3600 / s >= 3) || 1, text = (s, letters, each) => {
      const a = Math.abs(s), d = a / 3600 | 0, m = String((a / 60 | 0) % 60).padStart(2, "0"), sec = String(a % 60).padStart(2, "0");
      return `${d}°${each < 3600 ? m + "′" : ""}${each < 60 ? sec + "″" : ""}${a ? " " + letters[s < 0 ? 1 : 0] : ""}`;
    };
    const latStep = step(north - south), lonStep = Math.max(step(east - west), latStep / 2);
    const line = (at, label, upright) => {
      let d = "", last = null, edge = null;
      for (let i = 0; i <= 32; i++) {
        const p = toWindow(...forward(...at(i / 32)));
        if (!(Math.abs(p[0]) < 20 * w && Math.abs(p[1]) < 20 * h) || last && data.ground.world && Math.abs(p[0] - last[0]) > w) { last = null; continue; }
        d += `${last ? "L" : "M"}${p[0].toFixed(1)} ${p[1].toFixed(1)}`;
        if (last && !edge) {
          const k = upright ? (h - last[1]) / (p[1] - last[1]) : (0 - last[0]) / (p[0] - last[0]);
          if (k >= 0 && k <= 1) edge = [last[0] + k * (p[0] - last[0]), last[1] + k * (p[1] - last[1])];
        }
        last = p;
      }
      element("path", {d}, g);
      if (edge && edge[0] >= 0 && edge[0] < w - 60 && edge[1] > 12 && edge[1] <= h) element("text", upright ? {x: edge[0] + 3, y: h - 6} : {x: 5, y: edge[1] - 4}, g, label);
    };
    const pad = 0.05, dLat = (north - south) * pad, dLon = (east - west) * pad, c = middle[1];
    for (let s = Math.ceil((south - dLat) * 3600 / latStep) * latStep; s <= (north + dLat) * 3600; s += latStep) {
      if (Math.abs(s) < 90 * 3600) line(t => [s / 3600, c + west - dLon + t * (east - west + 2 * dLon)], text(s, "NS", latStep), false);
    }
    const low = Math.max(south - dLat, -89.9), high = Math.min(north + dLat, 89.9);
    for (let s = Math.ceil((c + west - dLon) * 3600 / lonStep) * lonStep; s <= (c + east + dLon) * 3600; s += lonStep) {
      const lon = ((s / 3600 + 540) % 360) - 180;
      line(t => [low + t * (high - low), s / 3600], text(Math.round(lon * 3600), "EW", lonStep), true);
    }
  }
  // A bar of a round length, at most 150 pixels long.
  function scale(s) {
    let name = data.measure, unit = data.unit;
    const perPx = data.metres / s;
    if (150 * perPx < unit) { name = "m"; unit = 1; }
    const most = 150 * perPx / unit, p = 10 ** Math.floor(Math.log10(most));
    const length = [5, 2, 1].map(k => k * p).find(l => l <= most * 1.0001) || p;
    byId("bar").setAttribute("width", length * unit / perPx);
    byId("length").textContent = `${+length.toPrecision(3)} ${name}`;
  }
  const radian = Math.PI / 180;
  // The place in the drawing of a position (J. P. Snyder, USGS Professional Paper 1395, 3-1, 7-7 and 21-24 to 21-27).
  function forward(lat, lon) {
    const g = data.ground, f = lat * radian, d = ((((lon - g.lon0) % 360) + 540) % 360 - 180) * radian;
    const psi = Math.atanh(Math.max(-1, Math.min(1, Math.sin(f)))) - g.e * Math.atanh(g.e * Math.sin(f));
    if (g.world) return [g.x + g.a * d / data.metres, g.y - g.a * psi / data.metres];
    const sin = Math.tanh(psi), cos = 1 / Math.cosh(psi), k = 2 * g.radius / (1 + g.sin0 * sin + g.cos0 * cos * Math.cos(d)) / data.metres;
    return [g.x + k * cos * Math.sin(d), g.y - k * (g.cos0 * sin - g.sin0 * cos * Math.cos(d))];
  }
  // The latitude of an isometric one.
  function latitude(psi) {
    const g = data.ground;
    let s = Math.tanh(psi);
    for (let i = 0; i < 6; i++) s = Math.tanh(psi + g.e * Math.atanh(g.e * s));
    return Math.asin(s) / radian;
  }
  // The position of a place of the drawing (J. P. Snyder, USGS Professional Paper 1395, 3-1, 21-14 and 21-15).
  function position(x, y) {
    const g = data.ground, east = (x - g.x) * data.metres, north = (g.y - y) * data.metres, r = Math.hypot(east, north);
    if (g.world) return [latitude(north / g.a), (((g.lon0 + east / g.a / radian + 180) % 360) + 360) % 360 - 180];
    if (r === 0) return [g.lat0, g.lon0];
    const c = 2 * Math.atan(r / (2 * g.radius)), sin = Math.sin(c), cos = Math.cos(c);
    const chi = Math.max(-1, Math.min(1, cos * g.sin0 + north * sin * g.cos0 / r));
    const lon = g.lon0 + Math.atan2(east * sin, r * g.cos0 * cos - north * g.sin0 * sin) / radian;
    return [latitude(Math.atanh(chi)), ((lon + 180) % 360 + 360) % 360 - 180];
  }
  function angle(v, digits, letters) {
    const m = Math.round(Math.abs(v) * 60000), whole = Math.floor(m / 60000);
    return `${String(whole).padStart(digits, "0")}°${((m - whole * 60000) / 1000).toFixed(3).padStart(6, "0")}′ ${letters[v < 0 ? 1 : 0]}`;
  }
  // Distance and first course on the ellipsoid, to its first order (H. Andoyer, in W. D. Lambert, 1942).
  function way(from, to) {
    const rad = radian, g = data.ground, f1 = from[0] * rad, f2 = to[0] * rad, l = (to[1] - from[1]) * rad;
    const F = (f1 + f2) / 2, G = (f1 - f2) / 2, L = l / 2;
    const sq = v => v * v, S = sq(Math.sin(G) * Math.cos(L)) + sq(Math.cos(F) * Math.sin(L));
    const C = sq(Math.cos(G) * Math.cos(L)) + sq(Math.sin(F) * Math.sin(L));
    if (S === 0 || C === 0) return [0, 0];
    const w = Math.atan(Math.sqrt(S / C)), R = Math.sqrt(S * C) / w;
    const H = (3 * R - 1) / (2 * C) * sq(Math.sin(F) * Math.cos(G)), K = (3 * R + 1) / (2 * S) * sq(Math.cos(F) * Math.sin(G));
    const course = Math.atan2(Math.sin(l) * Math.cos(f2), Math.cos(f1) * Math.sin(f2) - Math.sin(f1) * Math.cos(f2) * Math.cos(l));
    return [2 * w * g.a * (1 + g.f * (H - K)), (course / rad + 360) % 360];
  }
  const where = byId("where");
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

  // The list is made as far as one has scrolled.
  const list = byId("list"), aside = list.parentElement, find = byId("find"), found = byId("found");
  const texts = data.items.map(i => `${i.name || "without a name"} ${i.group || ""} ${i.details || ""}`.toLowerCase());
  const listing = {hits: [], made: 0, counts: {}};
  const row = id => id ? [...list.querySelectorAll("button")].find(b => b.dataset.item === id) : null;
  function html(name, parent, text, attributes) {
    const e = document.createElement(name);
    if (text) e.textContent = text;
    for (const [k, v] of Object.entries(attributes || {})) e.setAttribute(k, v);
    parent.append(e);
    return e;
  }
  function fill(n) {
    for (const end = Math.min(listing.made + n, listing.hits.length); listing.made < end; listing.made++) {
      const it = data.items[listing.hits[listing.made]];
      if (!list.lastElementChild || list.lastElementChild.dataset.kind !== it.kind) {
        html("small", html("h2", list, `${it.kind}s `), String(listing.counts[it.kind]));
        html("ul", list, "", {"data-kind": it.kind});
      }
      const b = html("button", html("li", list.lastElementChild), "", {type: "button", "data-item": it.id});
      if (it.look !== undefined || it.stroke) {
        const icon = element("svg", {class: "look", viewBox: it.look !== undefined ? "-12 -12 24 24" : "0 0 24 24", "aria-hidden": "true"}, b);
        if (it.look !== undefined) element("use", {href: `#look-${it.look}`}, icon);
        else element("path", {d: "M3 18 9 7l6 8 6-9", fill: it.kind === "area" ? it.stroke : "none", "fill-opacity": .3, stroke: it.stroke, "stroke-width": 2.5}, icon);
      }
      html("b", b, it.name || "without a name");
      if (it.group) { b.append(" "); html("i", b, it.group); }
      html("span", b, it.details);
      if (it.id === state.item) b.setAttribute("aria-current", "true");
    }
  }
  function filter() {
    const words = find.value.toLowerCase().split(/\s+/).filter(Boolean);
    Object.assign(listing, {hits: [], made: 0, counts: {}});
    data.items.forEach((it, i) => {
      if (!words.every(w => texts[i].includes(w))) return;
      listing.hits.push(i);
      listing.counts[it.kind] = (listing.counts[it.kind] || 0) + 1;
    });
    list.replaceChildren();
    fill(200);
    found.textContent = words.length ? `${listing.hits.length} of ${data.items.length}` : "";
  }
  aside.addEventListener("scroll", () => { if (aside.scrollTop + 2 * aside.clientHeight > list.offsetTop + list.offsetHeight) fill(200); });
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
    [state.x, state.y] = at.length === 2 && at.every(Number.isFinite) ? at : [fx + fw / 2, fy + fh / 2];
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
    const [x, y, w, h] = it.box || [it.x, it.y, 0, 0];
    state.x = x + w / 2;
    state.y = y + h / 2;
    const fit = Math.min(fw * 0.8 / Math.max(w, 1), fh * 0.8 / Math.max(h, 1));
    state.z = it.box ? Math.min(Math.max(fit, 1), 12) : Math.max(state.z, 3);
  }
  function zoom(factor, at) {
    const [w, h] = size(), [px, py] = at || [w / 2, h / 2], before = toDrawing(px, py);
    state.z = Math.min(Math.max(state.z * factor, least), most);
    const after = toDrawing(px, py);
    state.x += before[0] - after[0]; state.y += before[1] - after[1];
  }
  function none() { state.item = ""; said.textContent = ""; }
  function all() { Object.assign(state, {z: 1, x: fx + fw / 2, y: fy + fh / 2}); none(); }

  const fingers = new Map();
  let moved = 0;
  const point = e => { const r = svg.getBoundingClientRect(); return [e.clientX - r.left, e.clientY - r.top]; };
  const lift = e => {
    if (!fingers.delete(e.pointerId)) return;
    figure.classList.remove("moving");
    if (moved < 4 && e.type === "pointerup") {
      const hit = document.elementsFromPoint(e.clientX, e.clientY).map(n => n.closest("[data-item]")).find(n => n && svg.contains(n));
      if (hit) choose(hit.dataset.item, true); else none();
    }
    remember();
  };
  if (figure) {
    figure.addEventListener("pointerdown", e => {
      if (e.target.closest("button")) return;
      fingers.set(e.pointerId, point(e)); moved = 0;
      figure.setPointerCapture(e.pointerId); figure.classList.add("moving");
    });
    figure.addEventListener("pointermove", e => {
      const now = point(e), was = fingers.get(e.pointerId);
      locate(...toDrawing(...now));
      if (!was) { hover(now); return; }
      if (fingers.size === 1) {
        const s = pixels();
        state.x -= (now[0] - was[0]) / s; state.y -= (now[1] - was[1]) / s;
        moved += Math.abs(now[0] - was[0]) + Math.abs(now[1] - was[1]);
      } else {
        const other = [...fingers].find(([id]) => id !== e.pointerId)[1];
        const a = Math.hypot(was[0] - other[0], was[1] - other[1]), b = Math.hypot(now[0] - other[0], now[1] - other[1]);
        if (a > 0) zoom(b / a, other);
        moved = 99;
      }
      fingers.set(e.pointerId, now); show();
    });
    figure.addEventListener("pointerup", lift);
    figure.addEventListener("pointercancel", lift);
    figure.addEventListener("wheel", e => { e.preventDefault(); zoom(Math.exp(-e.deltaY / 400), point(e)); remember(); }, {passive: false});
    figure.addEventListener("keydown", e => {
      const step = 60 / pixels();
      const keys = {ArrowLeft: () => state.x -= step, ArrowRight: () => state.x += step, ArrowUp: () => state.y -= step, ArrowDown: () => state.y += step,
        "+": () => zoom(1.5), "=": () => zoom(1.5), "-": () => zoom(1 / 1.5), "0": all, Escape: none};
      if (!keys[e.key]) return;
      e.preventDefault(); keys[e.key](); remember();
    });
    new ResizeObserver(show).observe(figure);
  }
  document.addEventListener("click", e => {
    const b = e.target.closest("button");
    if (!b) return;
    if (b.dataset.item) choose(b.dataset.item);
    const act = {in: () => zoom(1.6), out: () => zoom(1 / 1.6), all}[b.dataset.do];
    if (act) act();
    remember();
  });
  byId("layers").addEventListener("change", e => {
    const l = e.target.dataset.layer;
    if (e.target.checked) state.off.delete(l); else state.off.add(l);
    remember();
  });

  // The pointer on the profile is shown on the map, and the other way around.
  const profile = byId("profile");
  const line = byId("line");
  function mark(s) {
    const without = !s;
    dot?.classList.toggle("hidden", without); if (line) line.classList.toggle("hidden", without);
    if (without) return;
    dot?.setAttribute("cx", s[1]); dot?.setAttribute("cy", s[2]);
    if (line) { line.setAttribute("x1", s[0]); line.setAttribute("x2", s[0]); }
    said.textContent = s[3];
  }
  function hover(p) {
    if (!data.samples.length) return;
    const [x, y] = toDrawing(...p);
    let best = null, near = 20 / pixels();
    for (const s of data.samples) { const d = Math.hypot(s[1] - x, s[2] - y); if (d < near) { near = d; best = s; } }
    mark(best);
  }
  if (profile) profile.addEventListener("pointermove", e => {
    const m = profile.querySelector("svg").getScreenCTM(), x = (e.clientX - m.e) / m.a;
    let best = null, near = 12;
    for (const s of data.samples) { const d = Math.abs(s[0] - x); if (d < near) { near = d; best = s; } }
    mark(best);
  });
  addEventListener("hashchange", recall);
  recall();
})();
