// The line that is moved through the day: one for all lanes, by pointer, finger or arrow keys. All figures are the
// server's, asked for once; between two moments they lie on a straight line, as the charge does in the picture.
(() => {
  "use strict";

  document.documentElement.dataset.scripts = "on";

  let told = null, from = "", hour = null, lane = null, asking = null;

  const bar = () => document.getElementById("cursor");
  const lanes = () => [...document.querySelectorAll(".lane[data-lane]")];
  const idOf = (article) => Number(article.id.slice("lane-".length));

  // The figures of the page that is shown; another address or another state of the rig has others.
  const load = () => {
    const at = bar()?.dataset.moments;
    if (!at) return Promise.resolve(null);
    if (told && from === at) return Promise.resolve(told);
    if (asking?.at !== at) {
      const answer = fetch(at, { headers: { Accept: "application/json" } })
        .then((response) => response.ok ? response.json() : null)
        .then((document) => { if (asking?.at === at) { told = document; from = at; asking = null; } return document; })
        .catch(() => { asking = null; return null; });
      asking = { at, answer };
    }
    return asking.answer;
  };

  // Which moment begins the piece that an hour lies in, and how far into it.
  const place = (hour) => {
    const { times } = told;
    let low = 0, high = times.length - 1;
    while (high - low > 1) {
      const middle = (low + high) >> 1;
      if (times[middle] <= hour) low = middle; else high = middle;
    }
    const wide = times[high] - times[low];
    return { low, high, part: wide > 0 ? Math.min(Math.max((hour - times[low]) / wide, 0), 1) : 0 };
  };
  const mix = (list, { low, high, part }) => {
    const a = list[low], b = list[high];
    return a == null || b == null ? a ?? b ?? null : a + (b - a) * part;
  };
  const near = (list, { low, high, part }) => list[part < 0.5 ? low : high] ?? null;
  const percent = (share) => `${Math.round(share * 100)} %`;
  const hours = (h) => h >= 100 ? "days" : h >= 10 ? `${Math.round(h)} h` : h >= 1 ? `${h.toFixed(1)} h` : `${Math.round(h * 60)} min`;

  const clock = (at) => {
    // Between two moments the clock runs on by minutes.
    const { low } = at;
    const minutes = Math.round((hour - told.times[low]) * 60);
    const [, h, m, rest] = /^(\d+):(\d+)(.*)$/.exec(told.clocks[low]) ?? [];
    if (h === undefined) return told.clocks[low];
    const all = Number(h) * 60 + Number(m) + minutes;
    const twelve = /[AP]M/.test(rest);
    if (twelve || all >= 1440) return near(told.clocks, at);
    return `${String(Math.floor(all / 60)).padStart(h.length, "0")}:${String(all % 60).padStart(2, "0")}${rest}`;
  };

  // What a lane has at that moment; nothing once it has ended.
  const state = (of, at) => {
    if (at.high >= of.charge.length && !(at.part === 0 && at.low < of.charge.length)) return null;
    const left = near(of.left, at), speed = told.speeds[at.high];
    return {
      charge: mix(of.charge, at), volts: mix(of.volts, at), amps: of.amps[at.high] ?? of.amps[at.low], left, speed,
      far: left != null && speed > 0.05 ? left * speed : null, home: near(of.home, at), setting: near(of.setting, at),
    };
  };

  const say = (of, now) => {
    if (!now) return `${of.name}: has ended by then.`;
    const above = now.charge - of.floor;
    const parts = [`${percent(now.charge)}, ${Math.round(Math.abs(above) * 100)} ${above < 0 ? "below" : "above"} its floor`];
    if (now.volts != null) parts.push(`${now.volts.toFixed(1)} V`);
    parts.push(`${now.amps.toFixed(1)} A`);
    if (now.speed != null) parts.push(`${Math.abs(now.speed).toFixed(1)} ${told.speed_unit}`);
    if (now.left != null) parts.push(`${hours(now.left)}${now.far != null ? ` (${now.far.toFixed(1)} ${told.far_unit})` : ""} left at this pace`);
    else parts.push("endless at this pace");
    const way = told.boat ? "home" : "the last way";
    if (now.home == null) parts.push(now.over ? "" : `${way} from here: not any more`);
    else parts.push(`${way} from here ends with ${percent(now.home)}`);
    // Where it hardly changes nobody asks.
    if (now.setting != null && Math.max(...of.setting.filter((s) => s != null)) - of.setting[0] >= 0.25) parts.push(now.setting > 10 ? `${way} takes more than setting 10` : `${way} takes setting ${now.setting.toFixed(1)}`);
    return `${of.name}: ${parts.filter(Boolean).join(", ")}.`;
  };

  const part = (picture, kind) => {
    let element = picture.querySelector(`.cursor-${kind}`);
    if (!element) {
      element = document.createElement(kind === "tag" ? "span" : "i");
      element.className = `cursor-${kind}`;
      element.setAttribute("aria-hidden", "true");
      picture.append(element);
    }
    return element;
  };
  const clear = () => {
    hour = null;
    delete bar()?.dataset.on;
    for (const element of document.querySelectorAll(".cursor-line, .cursor-dot, .cursor-tag")) element.remove();
  };

  // As the pictures are drawn: full at 5 % from the top, empty at 97 %.
  const down = (charge) => 5 + (1 - charge) * 92;

  const draw = () => {
    const b = bar();
    if (!told || hour == null || !b) return;
    const began = performance.now();
    const end = told.times[told.times.length - 1];
    hour = Math.min(Math.max(hour, 0), end);
    const at = place(hour), across = `${hour / end * 100}%`, late = hour / end > 0.72;
    const day = document.querySelector(".day-picture");
    if (day) part(day, "line").style.left = across;
    const all = lanes(), focus = all.find((one) => idOf(one) === lane) ?? all[0];
    for (const article of all) {
      const picture = article.querySelector(".lane-picture"), of = told.lanes.find((one) => one.id === idOf(article));
      if (!picture || !of) continue;
      const now = state(of, at);
      part(picture, "line").style.left = across;
      const dot = part(picture, "dot"), tag = part(picture, "tag");
      dot.hidden = !now;
      if (now) {
        dot.style.left = across;
        dot.style.top = `${down(now.charge)}%`;
      }
      tag.textContent = now ? `${percent(now.charge)}${now.volts != null ? ` · ${now.volts.toFixed(1)} V` : ""}${now.left != null ? ` · ${hours(now.left)} left` : ""}` : "ended";
      tag.style.left = late ? "auto" : `calc(${across} + 7px)`;
      tag.style.right = late ? `calc(${100 - hour / end * 100}% + 7px)` : "auto";
    }
    const of = focus && told.lanes.find((one) => one.id === idOf(focus));
    const words = of ? say(of, state(of, at)) : "";
    b.querySelector(".cursor-clock").textContent = clock(at);
    b.querySelector(".cursor-says").textContent = words;
    b.querySelector(".cursor-turn").textContent = of?.turn_by ? `turn for home by ${of.turn_by}` : "";
    b.dataset.on = "";
    b.setAttribute("aria-valuenow", String(Math.round(hour * 60)));
    b.setAttribute("aria-valuemax", String(Math.round(end * 60)));
    b.setAttribute("aria-valuetext", `${clock(at)}. ${words}`);
    (window.lakeCursor ??= []).push(performance.now() - began);
  };

  let frame = 0;
  const show = () => { if (!frame) frame = requestAnimationFrame(() => { frame = 0; load().then(draw); }); };

  const follow = (event) => {
    const picture = event.target.closest?.(".board .lane-picture, .board .day-picture");
    if (!picture) return;
    const box = picture.getBoundingClientRect();
    const part = (event.clientX - box.left) / box.width;
    lane = picture.closest(".lane") ? idOf(picture.closest(".lane")) : lane;
    load().then((document) => {
      if (!document) return;
      hour = part * document.times[document.times.length - 1];
      show();
    });
  };
  document.addEventListener("pointermove", follow, { passive: true });
  document.addEventListener("pointerdown", follow, { passive: true });

  document.addEventListener("keydown", (event) => {
    if (event.target.id !== "cursor" || event.ctrlKey || event.metaKey || event.altKey) return;
    const by = { ArrowRight: 5, ArrowUp: 5, ArrowLeft: -5, ArrowDown: -5, PageUp: 30, PageDown: -30 }[event.key];
    const to = { Home: 0, End: 1e6 }[event.key];
    if (event.key === "Escape") { clear(); return; }
    if (by === undefined && to === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    hour = to !== undefined ? to : (hour ?? 0) + by / 60;
    show();
  }, true);
  document.addEventListener("focusin", ({ target }) => {
    const article = target.closest?.(".lane[data-lane]");
    if (article && hour != null) { lane = idOf(article); show(); }
    if (target.id === "cursor" && hour == null) { hour = 0; show(); }
  });
  // What a swap has drawn anew gets its line back.
  document.addEventListener("htmx:after:swap", () => { if (hour != null) show(); });
})();
