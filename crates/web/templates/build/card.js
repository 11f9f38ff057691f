(() => {
  "use strict";
  const byId = (id) => document.getElementById(id);
  const data = JSON.parse(byId("data").textContent);
  if (!data.lines.length) return;
  const charge = byId("charge"), paces = byId("paces");
  let at = Math.floor(data.lines.length / 2);
  const keep = { get(k) { try { return localStorage.getItem(k); } catch { return null; } }, set(k, v) { try { localStorage.setItem(k, v); } catch { /* a file may have no storage */ } } };
  const key = "lake-hour-card:" + document.title;
  const before = (keep.get(key) ?? "").split(":").map(Number);
  if (data.levels.includes(before[0])) charge.value = before[0];
  if (before[1] >= 0 && before[1] < data.lines.length) at = before[1];
  const show = () => {
    const percent = Number(charge.value), level = data.levels.indexOf(percent), line = data.lines[at];
    const [hours, miles, volts] = line.told[level], share = percent / 100;
    byId("hours").textContent = hours === "-" ? "0 h" : hours;
    byId("miles").textContent = hours === "-" ? "" : miles;
    byId("speed").textContent = line.speed && `at ${line.speed}`;
    byId("charge-told").textContent = `${percent} %` + (volts ? `, ${volts} under this load` : "");
    const says = byId("says"), late = share <= data.reserve;
    says.className = late ? "late" : "";
    says.textContent = share <= data.floor ? "At its floor: going on costs life, or it shuts off." : hours === "-" ? "More than it gives: it shuts off." : late ? "Inside the reserve: go home." : "";
    byId("bed").setAttribute("width", 100 * Math.min(share, data.floor));
    byId("water").setAttribute("x", 100 * data.floor);
    byId("water").setAttribute("width", Math.max(0, 100 * (share - data.floor)));
    for (const [id, x] of [["keep", data.reserve], ["now", share]]) for (const end of ["x1", "x2"]) byId(id).setAttribute(end, 100 * x);
    [...paces.children].forEach((b, n) => b.setAttribute("aria-pressed", n === at));
    keep.set(key, `${percent}:${at}`);
  };
  data.lines.forEach((line, n) => {
    const button = document.createElement("button");
    button.type = "button";
    button.textContent = line.name;
    button.addEventListener("click", () => { at = n; show(); });
    paces.append(button);
  });
  charge.addEventListener("input", show);
  for (const [id, by] of [["less", -5], ["more", 5]]) byId(id).addEventListener("click", () => { charge.value = Number(charge.value) + by; show(); });
  // On paper the table stands for the tool.
  const all = document.querySelector("details");
  addEventListener("beforeprint", () => { all.dataset.was = all.open; all.open = true; });
  addEventListener("afterprint", () => { all.open = all.dataset.was === "true"; });
  byId("tool").hidden = false;
  show();
})();
