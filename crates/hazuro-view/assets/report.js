"use strict";
(() => {
  const data = JSON.parse(document.getElementById("data").textContent);
  const $ = (id) => document.getElementById(id);
  document.documentElement.classList.add("scripts");
  const live = $("live"), slider = $("time"), side = $("side");
  const SVG = "http://www.w3.org/2000/svg";
  // What its own switch of blocking turns off, and what the one of being there at all does.
  const SOLIDS = ["solid", "ground"], BODIES = ["body", "player"];
  const DETECTORS = ["idle", "sight", "ray", "offer", "target"];

  // How something was at a time: the last of a list that began by then, and the next.
  const last = (list, t) => {
    let low = 0, high = list.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (list[middle][0] <= t) low = middle + 1; else high = middle;
    }
    return low - 1;
  };
  const where = (e, t) => {
    const track = data.tracks[e];
    if (!track) return null;
    const i = Math.max(0, last(track, t)), a = track[i], b = track[i + 1];
    if (!b) return a;
    const part = Math.max(0, (t - a[0]) / (b[0] - a[0]));
    const turn = ((b[3] - a[3] + 540) % 360) - 180;
    return [t, a[1] + (b[1] - a[1]) * part, a[2] + (b[2] - a[2]) * part, a[3] + turn * part];
  };
  const pixel = (x, z) => [data.origin[0] + x * data.pixels, data.origin[1] + z * data.pixels];

  const drawn = {};
  const groups = [...live.querySelectorAll("g[data-t], g.name")].map((g) => {
    const e = g.dataset.e, base = where(e, (drawn[e] ??= +(g.dataset.t ?? 0)));
    const plain = g.dataset.m;
    const part = plain && new RegExp("^[mt]-(" + plain + "|off|occupied|fired)\\b");
    const all = plain ? [...g.querySelectorAll("[class]")] : [];
    const parts = all.filter((it) => part.test(it.getAttribute("class")));
    return { g, e, base, plain, parts, named: g.classList.contains("name") };
  });
  const fired = {};
  for (const event of data.events) {
    if (event.on !== undefined) (fired[event.on] ||= []).push(event.t);
  }

  // The marks of the moment, above everything else.
  const marks = document.createElementNS(SVG, "g");
  live.querySelector("svg").append(marks);
  const chart = document.querySelector("#timeline .chart");
  const cursor = document.createElementNS(SVG, "path");
  cursor.setAttribute("class", "cursor");
  chart.append(cursor);
  const tall = chart.closest("svg").viewBox.baseVal.height;
  const rows = [...document.querySelectorAll("#events tr[data-i]")];

  let now = 0, chosen = null, timer = null;
  const show = (t) => {
    now = Math.min(data.seconds, Math.max(0, t));
    slider.value = now;
    $("now").textContent = now.toFixed(2) + " s";
    for (const { g, e, base, plain, parts, named } of groups) {
      const switches = data.switches[e];
      const at = switches ? last(switches, now) : -1;
      const [there, on, solid, detects] = at >= 0 ? switches[at][1] : [1, 1, 1, 1];
      const lit = () => (data.lit[e] || []).some(([from, until]) => from <= now && now < until);
      g.classList.toggle("away", !there || (plain === "highlight" && !lit()));
      g.classList.toggle("chosen", e === chosen);
      if (base) {
        const it = where(e, now), [x, y] = pixel(it[1], it[2]), [x0, y0] = pixel(base[1], base[2]);
        const turn = named ? "" : ` rotate(${base[3] - it[3]} ${x0} ${y0})`;
        g.setAttribute("transform", `translate(${x - x0} ${y - y0})${turn}`);
      }
      if (parts.length) {
        const busy = (data.busy[e] || []).some(([from, until]) => from <= now && now < until);
        const hot = (fired[e] || []).some((when) => when <= now && now - when < 0.5);
        const works = SOLIDS.includes(plain) ? solid : BODIES.includes(plain) ? on
          : DETECTORS.includes(plain) ? detects : 1;
        const state = plain !== "idle" ? plain : hot ? "fired" : busy ? "occupied" : "idle";
        const is = works ? state : "off";
        for (const part of parts) {
          part.setAttribute("class", part.getAttribute("class").replace(/^([mt])-\w+/, "$1-" + is));
        }
      }
    }
    marks.replaceChildren();
    let here = null;
    for (const event of data.events) {
      if (event.t > now) break;
      here = event;
      if (now - event.t > 0.5 || !event.at) continue;
      const [x, y] = pixel(event.at[0], event.at[1]), dot = document.createElementNS(SVG, "path");
      dot.setAttribute("class", "m-event");
      dot.setAttribute("d", `M${x} ${y - 5}l5 5l-5 5l-5 -5Z`);
      marks.append(dot);
    }
    for (const row of rows) row.classList.toggle("here", here !== null && +row.dataset.i === here.i);
    const { left, wide, seconds } = chart.dataset, x = +left + wide * (now / seconds);
    cursor.setAttribute("d", `M${x} 0V${tall - 20}`);
  };

  const name = (e) => (e === undefined ? "" : data.names[e]);
  const element = (tag, text, className) => {
    const it = document.createElement(tag);
    it.textContent = text;
    if (className) it.className = className;
    return it;
  };
  const tell = (e) => {
    chosen = e === null ? null : String(e);
    side.replaceChildren(element("h3", name(e)));
    const its = data.events.filter((event) => String(event.on) === chosen || String(event.who) === chosen);
    side.append(element("h4", its.length === 1 ? "1 event" : its.length + " events"));
    const list = document.createElement("ul");
    for (const event of its.slice(0, 40)) {
      const item = document.createElement("li");
      const words = `${event.t.toFixed(3)} s  ${event.k} ${name(event.on)} ${name(event.who)}`;
      const jump = element("button", words);
      jump.type = "button";
      jump.onclick = () => show(event.t);
      item.append(jump);
      list.append(item);
    }
    if (its.length > 40) list.append(element("li", `and ${its.length - 40} more`));
    side.append(list);
    for (const one of data.gates[chosen] || []) {
      const others = one.more ? ` and ${one.more} more` : "";
      const what = one.u ? `use of ${one.d}` : one.d;
      side.append(element("h4", `${what}: ${one.who}${others}`));
      const gates = document.createElement("ul");
      for (const [words, passed] of one.g) {
        const missed = !passed && one.saw ? ": " + one.saw : "";
        gates.append(element("li", (passed ? "✓ " : "✗ ") + words + missed));
      }
      if (one.t !== undefined) gates.append(element("li", `nearest at ${one.t} s`));
      if (one.cure) gates.append(element("li", "cure: " + one.cure, "cure"));
      side.append(gates);
    }
    show(now);
  };
  const see = (index) => {
    const event = data.events.find((it) => it.i === index);
    if (!event) return;
    show(event.t);
    if (event.on !== undefined) tell(event.on);
  };

  slider.oninput = () => show(+slider.value);
  const step = (way) => {
    const times = data.events.map((event) => event.t);
    const next = way > 0 ? times.find((t) => t > now + 1e-6) : times.filter((t) => t < now - 1e-6).pop();
    if (next !== undefined) show(next);
  };
  $("on").onclick = () => step(1);
  $("back").onclick = () => step(-1);
  const run = () => {
    if (timer) {
      cancelAnimationFrame(timer);
      timer = null;
      $("run").textContent = "▶";
      return;
    }
    if (now >= data.seconds) show(0);
    let before = performance.now();
    $("run").textContent = "❚❚";
    const frame = (at) => {
      show(now + (at - before) / 1000);
      before = at;
      if (now < data.seconds) timer = requestAnimationFrame(frame);
      else run();
    };
    timer = requestAnimationFrame(frame);
  };
  $("run").onclick = run;
  live.onclick = (click) => {
    const g = click.target.closest("g[data-e]");
    if (g) tell(+g.dataset.e);
  };
  live.onmouseover = (over) => {
    const g = over.target.closest("g[data-e]");
    live.title = g ? name(g.dataset.e) : "";
  };
  document.querySelector("#events tbody").onclick = (click) => {
    const row = click.target.closest("tr[data-i]");
    if (!row) return;
    see(+row.dataset.i);
    $("map").scrollIntoView();
  };
  chart.onclick = (click) => {
    const tick = click.target.closest("[data-i]");
    if (tick) see(+tick.dataset.i);
  };
  document.onkeydown = (key) => {
    if (key.ctrlKey || key.metaKey || key.altKey || key.target.closest("button, a")) return;
    if (key.code === "Space") run();
    else if (key.code === "ArrowRight" && key.target !== slider) step(1);
    else if (key.code === "ArrowLeft" && key.target !== slider) step(-1);
    else return;
    key.preventDefault();
  };
  $("ground").onclick = () => {
    const root = document.documentElement;
    const dark = root.dataset.ground ? root.dataset.ground === "dark" : matchMedia("(prefers-color-scheme: dark)").matches;
    root.dataset.ground = dark ? "light" : "dark";
  };
  show(0);
})();
