"use strict";
(() => {
  const data = JSON.parse(document.getElementById("data").textContent);
  const $ = (id) => document.getElementById(id);
  const asked = new URLSearchParams(location.search);
  const live = $("live"), svg = live.querySelector("svg");
  // What its own switch of blocking turns off, and what the one of being on at all does.
  const SOLIDS = ["solid", "ground"], BODIES = ["body", "player"];
  const DETECTORS = ["idle", "sight", "ray", "offer", "target"];
  // How long something that fired is shown, and how long one view takes to become the next, in ms.
  const GLOW = 500, EASE = 60;
  // How often the host hears of somebody who does nothing, how long to wait before trying again, in ms.
  const BEAT = 1000, AGAIN = 1000;
  // How many lines of events and texts are kept, and how far ahead an arrow walks, in metres.
  const LINES = 14, FAR = 100;
  const ARROWS = { ArrowUp: [0, -1], ArrowDown: [0, 1], ArrowLeft: [-1, 0], ArrowRight: [1, 0] };

  const text = (tag, words, className) => {
    const it = document.createElement(tag);
    it.textContent = words;
    if (className) it.className = className;
    return it;
  };
  const say = (words) => { $("standing").textContent = words; };
  const keep = (list, line) => {
    list.prepend(line);
    while (list.children.length > LINES) list.lastChild.remove();
  };

  // Everything, as it was drawn, as it is shown, and as it was told last.
  const things = [], named = new Map(), numbered = new Map();
  const know = (drawn) => {
    const at = [...drawn.at, drawn.turn];
    const told = { enabled: true, solid: true, detect: true, detects: [], owner: "" };
    const thing = { ...drawn, groups: [], there: false, fired: -GLOW, shown: at, from: at, to: at, since: 0, height: 0, told };
    things.push(thing);
    named.set(thing.name, thing);
    numbered.set(String(thing.index), thing);
    return thing;
  };
  data.things.forEach(know);
  for (const g of live.querySelectorAll("g[data-t], g.name")) {
    const plain = g.dataset.m, thing = numbered.get(g.dataset.e);
    const part = plain && new RegExp("^[mt]-(" + plain + "|off|occupied|fired)\\b");
    const all = plain ? [...g.querySelectorAll("[class]")] : [];
    const parts = all.filter((it) => part.test(it.getAttribute("class")));
    thing?.groups.push({ g, plain, parts, named: g.classList.contains("name") });
  }

  // What the page does not know is a secret of the player's, or came later: a dot with its name.
  const SVG = "http://www.w3.org/2000/svg";
  const meet = (name, [x, , z]) => {
    const thing = know({ index: `new-${things.length}`, name, at: [x, z], turn: 0, chosen: true, clicks: false, carried: true });
    const g = document.createElementNS(SVG, "g"), dot = document.createElementNS(SVG, "circle");
    const label = document.createElementNS(SVG, "text");
    const [cx, cy] = [x, z].map((metre, i) => data.origin[i] + metre * data.pixels);
    for (const [key, value] of [["cx", cx], ["cy", cy], ["r", 5], ["class", "m-body"]]) dot.setAttribute(key, value);
    for (const [key, value] of [["x", cx + 8], ["y", cy + 4], ["class", "ink"], ["font-size", 11]]) label.setAttribute(key, value);
    label.textContent = name;
    g.dataset.e = thing.index;
    g.append(dot, label);
    svg.append(g);
    thing.groups.push({ g, plain: "body", parts: [], named: true });
    return thing;
  };

  let socket = null, me = null, number = 0, offers = [], chosen = null, held = new Set();

  const send = (message) => {
    if (socket && socket.readyState === WebSocket.OPEN) socket.send(JSON.stringify(message));
  };
  const act = (deed) => {
    if (me) send({ deeds: { list: [{ number: ++number, deed }] } });
  };

  const turnOf = ([x, y, z, w]) => {
    const east = -2 * (x * z + w * y), south = -(1 - 2 * (x * x + y * y));
    return Math.atan2(-east, -south) * 180 / Math.PI;
  };
  const hear = (view) => {
    const now = performance.now();
    for (const [name, seen] of Object.entries(view.things ?? {})) {
      const thing = named.get(name) ?? (seen.at && meet(name, seen.at));
      if (!thing) continue;
      const appears = seen.there === true && !thing.there;
      if (seen.there !== undefined) thing.there = seen.there;
      if (seen.at || seen.turned) {
        thing.from = thing.shown;
        thing.to = [...thing.to];
        if (seen.at) [thing.to[0], thing.height, thing.to[1]] = seen.at;
        if (seen.turned) thing.to[2] = turnOf(seen.turned);
        thing.since = now;
        // What jumps, or comes in, has not gone there.
        const far = Math.hypot(thing.to[0] - thing.from[0], thing.to[1] - thing.from[1]) > 3;
        if (appears || far) thing.from = thing.to;
      }
      Object.assign(thing.told, seen);
    }
    for (const event of view.events ?? []) {
      if (named.has(event.on)) named.get(event.on).fired = now;
      const words = [event.kind, event.on, event.who && event.who !== event.on ? event.who : ""].filter(Boolean);
      keep($("events"), text("li", `${event.time.toFixed(2)} s  ${words.join(" ")}`));
    }
    for (const words of view.said ?? []) keep($("said"), text("li", words));
    for (const { what, why } of view.kept ?? []) keep($("said"), text("li", `${what}: ${why}`, "refused"));
    for (const [, why] of view.refused ?? []) keep($("said"), text("li", why, "refused"));
    if (view.offers) {
      offers = view.offers;
      showOffers();
    }
    if (view.things || view.offers) showChosen();
  };

  const showOffers = () => {
    const items = offers.map((offer) => {
      const item = document.createElement("li");
      const use = text("button", offer.caption || "use");
      use.type = "button";
      use.onclick = () => act({ interact: { with: offer.with } });
      item.append(text("kbd", offer.key.replace(/^Key|^Digit/, "")), use, text("span", offer.with));
      if (offer.hold > 0) {
        const bar = document.createElement("progress");
        bar.value = offer.progress;
        item.append(bar);
      }
      return item;
    });
    $("offers").replaceChildren(...items);
  };

  const showChosen = () => {
    const box = $("chosen"), thing = chosen;
    if (!thing) return box.replaceChildren();
    const says = [];
    if (!thing.there) says.push("not in the play");
    if (thing.told.owner) says.push(`belongs to ${thing.told.owner}`);
    if (!thing.told.enabled) says.push("off");
    const { name } = thing, to = name;
    const inside = thing.told.detects ?? [];
    if (inside.length) says.push(`detects ${inside.slice(0, 5).join(", ")}${inside.length > 5 ? " and others" : ""}`);
    const deeds = [["walk there", { walk: { to } }], ["look there", { face: { to } }]];
    if (offers.some((offer) => offer.with === name)) deeds.push(["use", { interact: { with: name } }]);
    if (thing.clicks) deeds.push(["click", { point: { at: name, button: "click" } }]);
    if (thing.carried) deeds.push(["take", { grab: { what: name } }], ["drop", "drop"], ["throw", { throw: { velocity: [0, 3, -5] } }]);
    const buttons = document.createElement("p");
    for (const [words, deed] of deeds) {
      const button = text("button", words);
      button.type = "button";
      button.onclick = () => act(deed);
      buttons.append(button);
    }
    const at = `${thing.to[0].toFixed(2)} ${thing.height.toFixed(2)} ${thing.to[1].toFixed(2)}`;
    box.replaceChildren(text("h3", name), text("p", [`at ${at}`, ...says].join(", ")), ...(thing.there ? [buttons] : []));
  };

  const draw = (now) => {
    requestAnimationFrame(draw);
    const lit = new Set(offers.map((offer) => offer.highlight));
    for (const thing of things) {
      const part = Math.min(1, (now - thing.since) / EASE), { from, to, told } = thing;
      const turn = ((to[2] - from[2] + 540) % 360 + 360) % 360 - 180;
      const [x, z] = [0, 1].map((i) => from[i] + (to[i] - from[i]) * part);
      thing.shown = [x, z, from[2] + turn * part];
      const [x0, y0] = [0, 1].map((i) => data.origin[i] + thing.at[i] * data.pixels);
      const [dx, dy] = [(x - thing.at[0]) * data.pixels, (z - thing.at[1]) * data.pixels];
      for (const { g, plain, parts, named } of thing.groups) {
        g.classList.toggle("away", !thing.there || (plain === "highlight" && !lit.has(thing.name)));
        g.classList.toggle("chosen", thing === chosen);
        g.classList.toggle("own", thing.name === me);
        const spin = named ? "" : ` rotate(${thing.turn - thing.shown[2]} ${x0} ${y0})`;
        g.setAttribute("transform", `translate(${dx} ${dy})${spin}`);
        if (!parts.length) continue;
        const works = SOLIDS.includes(plain) ? told.solid : BODIES.includes(plain) ? told.enabled
          : DETECTORS.includes(plain) ? told.detect : true;
        const idle = told.detects?.length ? "occupied" : "idle";
        const state = plain !== "idle" ? plain : now - thing.fired < GLOW ? "fired" : idle;
        const is = works ? state : "off";
        for (const it of parts) {
          it.setAttribute("class", it.getAttribute("class").replace(/^([mt])-\w+/, "$1-" + is));
        }
      }
    }
  };

  const WHY = {
    token: "the host asks for a token", full: "all players are played already", taken: "somebody else plays that player",
    no_player: "there is no such player", given_up: "the seat was given up meanwhile", version: "the host is of another version",
  };
  const denied = (why) => {
    const word = typeof why === "string" ? why : Object.keys(why)[0];
    sessionStorage.removeItem("key");
    say(`Not joined: ${WHY[word] ?? word}.`);
    $("join").hidden = false;
  };
  const join = () => {
    const scheme = location.protocol === "https:" ? "wss" : "ws";
    let over = false;
    socket = new WebSocket(`${scheme}://${location.host}/`);
    socket.onopen = () => {
      const hello = { version: 1, view: true };
      for (const [name, value] of [["name", asked.get("player")], ["token", asked.get("token")], ["key", sessionStorage.getItem("key")]]) {
        if (value) hello[name] = value;
      }
      send({ hello });
    };
    socket.onmessage = (message) => {
      const { welcome, view, denied: no, closed } = JSON.parse(message.data);
      if (welcome) {
        [me, number] = [welcome.player, welcome.done];
        sessionStorage.setItem("key", welcome.key);
        $("join").hidden = true;
        document.body.classList.remove("lost");
        say(`You are ${me}.`);
      }
      if (view) hear(view);
      if (no) {
        over = true;
        denied(no.why);
      }
      if (closed) {
        over = true;
        say(`The host has closed the line: ${closed.why}.`);
      }
    };
    socket.onclose = () => {
      me = null;
      held.clear();
      document.body.classList.add("lost");
      if (over) return;
      say("No line to the host; trying again.");
      setTimeout(join, AGAIN);
    };
  };
  setInterval(() => me && send({ deeds: {} }), BEAT);

  live.onclick = (click) => {
    const g = click.target.closest("g[data-e]"), thing = g && numbered.get(g.dataset.e);
    chosen = thing?.chosen && thing.name !== me ? thing : null;
    showChosen();
    if (chosen) return;
    const at = new DOMPoint(click.clientX, click.clientY).matrixTransform(svg.getScreenCTM().inverse());
    const [x, z] = [at.x - data.origin[0], at.y - data.origin[1]].map((pixel) => pixel / data.pixels);
    const height = named.get(me)?.height ?? 0;
    act({ walk: { to: [x, height, z] } });
  };
  live.onmouseover = (over) => {
    const g = over.target.closest("g[data-e]");
    live.title = g ? numbered.get(g.dataset.e)?.name ?? "" : "";
  };

  const stride = () => {
    const way = [0, 0];
    for (const key of held) if (ARROWS[key]) ARROWS[key].forEach((part, i) => { way[i] += part; });
    const own = named.get(me);
    if (!own) return;
    if (!way[0] && !way[1]) return act("halt");
    act({ walk_straight: { to: [own.to[0] + way[0] * FAR, own.height, own.to[1] + way[1] * FAR] } });
  };
  const isOurs = (key) => !key.ctrlKey && !key.metaKey && !key.altKey && !key.target.closest("button, input, select, a");
  document.onkeydown = (key) => {
    if (!isOurs(key) || key.code === "Tab") return;
    key.preventDefault();
    if (key.repeat || held.has(key.code)) return;
    held.add(key.code);
    if (ARROWS[key.code]) stride();
    else if (key.code === "Space") act("jump");
    else if (key.code === "Escape") { chosen = null; showChosen(); }
    else act({ press: { key: key.code } });
  };
  document.onkeyup = (key) => {
    if (!held.delete(key.code)) return;
    if (ARROWS[key.code]) stride();
    else if (key.code !== "Space" && key.code !== "Escape") act({ release: { key: key.code } });
  };

  $("player").append(...data.players.map((name) => new Option(name)));
  $("join").onsubmit = (submit) => {
    submit.preventDefault();
    asked.set("player", $("player").value);
    if ($("token").value) asked.set("token", $("token").value);
    join();
  };
  $("ground").onclick = () => {
    const root = document.documentElement;
    const dark = root.dataset.ground ? root.dataset.ground === "dark" : matchMedia("(prefers-color-scheme: dark)").matches;
    root.dataset.ground = dark ? "light" : "dark";
  };
  say("Joining…");
  join();
  requestAnimationFrame(draw);
})();
