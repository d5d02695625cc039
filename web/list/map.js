// The map: difficulty against searches, what is not looked up in a strip at the edge. A box,
// drawn by mouse or keys, becomes filters.
import { find, notice } from "../frame/frame.js";
import { openDrawer } from "./list.js";
import { remakeWith } from "../filters/sieve.js";

const pad = { left: 56, right: 12, top: 18, bottom: 26, strip: 90 };
const most = 100;
const shapes = ["circle", "diamond", "triangle", "square"]; // by want: learn, find, compare, buy

let map = null; // what is drawn now

const css = (name) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();

async function begin(canvas) {
  const answer = await fetch(canvas.dataset.points).catch(() => null);
  if (!answer?.ok) return notice("The points of the map could not be had.");
  const points = await answer.json();
  if (canvas !== shown) return;
  const top = Math.max(100, ...points.searches.slice(0, 1000), ...points.searches.slice(-1));
  const view = { x0: -1, x1: most + 2, y0: 0.6, y1: Math.log10(top) + 0.15 };
  map = {
    canvas,
    points,
    whole: { ...view },
    view,
    box: null,
    jitter: points.id.map((id) => (id * 2654435761) % 997),
  };
  canvas.removeAttribute("aria-busy");
  resize();
  new ResizeObserver(resize).observe(canvas.parentElement);
}

function resize() {
  if (!map) return;
  const { canvas } = map;
  const room = canvas.parentElement.getBoundingClientRect();
  const ratio = devicePixelRatio || 1;
  map.w = Math.max(320, room.width);
  map.h = Math.max(200, room.height);
  canvas.width = map.w * ratio;
  canvas.height = map.h * ratio;
  map.ratio = ratio;
  map.wide = map.w - pad.left - pad.right - pad.strip;
  map.high = map.h - pad.top - pad.bottom;
  paint();
}

const px = (d) => pad.left + ((d - map.view.x0) / (map.view.x1 - map.view.x0)) * map.wide;
const py = (s) =>
  pad.top + (1 - (Math.log10(Math.max(1, s)) - map.view.y0) / (map.view.y1 - map.view.y0)) * map.high;
const backX = (x) => map.view.x0 + ((x - pad.left) / map.wide) * (map.view.x1 - map.view.x0);
const backY = (y) => 10 ** (map.view.y0 + (1 - (y - pad.top) / map.high) * (map.view.y1 - map.view.y0));

// place is where a point stands; what is not looked up, in the strip.
const place = (i) => {
  const { difficulty, searches } = map.points;
  const x =
    difficulty[i] < 0
      ? map.w - pad.strip - pad.right + 14 + (map.jitter[i] / 997) * (pad.strip - 24)
      : px(difficulty[i]);
  return [x, py(searches[i] < 0 ? 1 : searches[i])];
};

const size = (i) => {
  const worth = map.points.worth[i];
  return worth <= 0 ? 2 : Math.min(8, 1.6 + 1.15 * Math.log10(1 + worth));
};

function shape(c, kind, x, y, r) {
  if (kind === "circle") {
    c.moveTo(x + r, y);
    c.arc(x, y, r, 0, 7);
  } else if (kind === "square") c.rect(x - r * 0.9, y - r * 0.9, r * 1.8, r * 1.8);
  else if (kind === "triangle") {
    c.moveTo(x, y - r * 1.1);
    c.lineTo(x + r, y + r * 0.9);
    c.lineTo(x - r, y + r * 0.9);
    c.closePath();
  } else {
    c.moveTo(x, y - r * 1.2);
    c.lineTo(x + r * 1.2, y);
    c.lineTo(x, y + r * 1.2);
    c.lineTo(x - r * 1.2, y);
    c.closePath();
  }
}

// paint draws all; quickly while something moves: then every point is a small square.
let resting = null;

function paint(quick = false) {
  if (!map) return;
  const { canvas, points, view } = map;
  const c = canvas.getContext("2d");
  c.setTransform(map.ratio, 0, 0, map.ratio, 0, 0);
  c.clearRect(0, 0, map.w, map.h);
  c.font = `11px ${getComputedStyle(document.body).fontFamily}`;
  const line = px(points.reach);
  c.fillStyle = css("--mine-wash");
  c.fillRect(pad.left, pad.top, Math.max(0, Math.min(line, pad.left + map.wide) - pad.left), map.high);
  c.strokeStyle = css("--rule");
  c.fillStyle = css("--soft");
  c.lineWidth = 1;
  c.textAlign = "right";
  for (let e = 0; e < 7; e++) {
    const y = py(10 ** e);
    if (y < pad.top || y > pad.top + map.high) continue;
    c.beginPath();
    c.moveTo(pad.left, y);
    c.lineTo(map.w - pad.right, y);
    c.stroke();
    c.fillText((10 ** e).toLocaleString("en"), pad.left - 6, y + 4);
  }
  c.textAlign = "center";
  const step = view.x1 - view.x0 > 40 ? 20 : view.x1 - view.x0 > 15 ? 5 : 1;
  for (let d = 0; d <= most; d += step) {
    const x = px(d);
    if (x >= pad.left - 1 && x <= pad.left + map.wide) c.fillText(d === most ? "100+" : d, x, map.h - 10);
  }
  c.textAlign = "left";
  c.fillText("searches a month", 2, pad.top + 2);
  c.textAlign = "center";
  c.fillText("difficulty", px(view.x0 + (view.x1 - view.x0) * 0.44), map.h - 10);
  c.fillText("not looked up", map.w - pad.right - pad.strip / 2, map.h - 10);
  c.save();
  c.beginPath();
  c.rect(pad.left - 6, pad.top - 6, map.w - pad.left - pad.right + 12, map.high + 12);
  c.clip();
  c.setLineDash([5, 3]);
  c.strokeStyle = css("--mine");
  c.lineWidth = 2;
  c.beginPath();
  c.moveTo(line, pad.top);
  c.lineTo(line, pad.top + map.high);
  c.stroke();
  c.setLineDash([]);
  c.strokeStyle = css("--rule");
  c.lineWidth = 1;
  c.strokeRect(map.w - pad.right - pad.strip + 4.5, pad.top + 0.5, pad.strip - 9, map.high);
  marks(c, quick && points.id.length > 3000);
  c.restore();
  c.fillStyle = css("--mine");
  c.textAlign = "left";
  c.fillText(`your reach ${Math.round(points.reach)}`, Math.min(line + 6, pad.left + map.wide - 60), pad.top + 10);
  if (map.box) outline(c);
  if (!quick) return;
  clearTimeout(resting);
  resting = setTimeout(() => paint(), 120);
}

function marks(c, quick) {
  const { points } = map;
  const groups = [css("--mine"), css("--stone")].map((color) => ({ color, path: shapes.map(() => new Path2D()) }));
  const kept = new Path2D();
  const dropped = new Path2D();
  for (let i = points.id.length - 1; i >= 0; i--) {
    const [x, y] = place(i);
    if (x < -10 || y < -10 || x > map.w + 10 || y > map.h + 10) continue;
    const known = points.difficulty[i] >= 0;
    if (!known && x < map.w - pad.strip - pad.right) continue;
    if (known && x > pad.left + map.wide + 6) continue;
    const r = quick ? 2 : size(i);
    if (points.decision[i] === 2) {
      dropped.moveTo(x - r, y - r);
      dropped.lineTo(x + r, y + r);
      dropped.moveTo(x + r, y - r);
      dropped.lineTo(x - r, y + r);
      continue;
    }
    const group = groups[known && points.difficulty[i] <= points.reach ? 0 : 1];
    if (quick) group.path[0].rect(x - 2, y - 2, 4, 4);
    else shape(group.path[Math.max(0, points.wants[i])], shapes[Math.max(0, points.wants[i])], x, y, r);
    if (points.decision[i] === 1) {
      kept.moveTo(x + r + 3, y);
      kept.arc(x, y, r + 3, 0, 7);
    }
  }
  c.globalAlpha = 0.75;
  for (const g of groups.reverse()) {
    c.fillStyle = g.color;
    for (const path of g.path) c.fill(path);
  }
  c.globalAlpha = 1;
  c.lineWidth = 2;
  c.strokeStyle = css("--opening");
  c.stroke(kept);
  c.lineWidth = 1;
  c.strokeStyle = css("--soft");
  c.stroke(dropped);
}

// The box, in figures: difficulty from x0 to x1, searches from y0 to y1.
function outline(c) {
  const { x0, x1, y0, y1 } = map.box;
  c.strokeStyle = css("--opening");
  c.lineWidth = 2;
  c.strokeRect(px(x0), py(y1), px(x1) - px(x0), py(y0) - py(y1));
}

// bars are the box as filters have it: whole numbers, difficulty as it is shown.
const bars = () => ({
  from: Math.ceil(map.box.x0),
  to: Math.floor(map.box.x1),
  least: Math.ceil(map.box.y0),
  most: Math.floor(map.box.y1),
});

function say() {
  let says = "";
  if (map.box) {
    const { from, to, least, most } = bars();
    const { difficulty, searches } = map.points;
    let n = 0;
    for (let i = 0; i < searches.length; i++) {
      const d = Math.round(difficulty[i]);
      if (d >= from && d <= to && searches[i] >= least && searches[i] <= most) n++;
    }
    says =
      `Box: difficulty ${from} to ${to}, searches ${least} to ${most}: ${n} ideas. ` +
      "Enter takes them to the list.";
  }
  find("#map-says").textContent = says;
}

function setBox(box) {
  map.box = box && {
    x0: Math.max(0, Math.min(box.x0, box.x1)),
    x1: Math.min(most, Math.max(box.x0, box.x1)),
    y0: Math.max(1, Math.min(box.y0, box.y1)),
    y1: Math.max(box.y0, box.y1),
  };
  say();
  paint(true);
}

// take makes filters of the box, those that stop nothing left out.
function take() {
  if (!map.box) return;
  const { from, to, least, most } = bars();
  const values = { difficulty: to, "searches-to": most };
  if (from > 0) values["difficulty-from"] = from;
  if (least > 1) values["searches-from"] = least;
  remakeWith(values);
}

function zoom(times, x = pad.left + map.wide / 2, y = pad.top + map.high / 2) {
  const v = map.view;
  const cx = Math.max(v.x0, Math.min(v.x1, backX(x)));
  const cy = Math.log10(backY(y));
  const whole = map.whole;
  v.x0 = Math.max(whole.x0, cx - (cx - v.x0) / times);
  v.x1 = Math.min(whole.x1, cx + (v.x1 - cx) / times);
  v.y0 = Math.max(whole.y0, cy - (cy - v.y0) / times);
  v.y1 = Math.min(whole.y1, cy + (v.y1 - cy) / times);
  paint(true);
}

function nearest(x, y) {
  let best = -1;
  let far = 14 ** 2;
  for (let i = 0; i < map.points.id.length; i++) {
    const [a, b] = place(i);
    const d = (a - x) ** 2 + (b - y) ** 2;
    if (d < far) [best, far] = [i, d];
  }
  return best;
}

let start = null;

document.addEventListener("pointerdown", (event) => {
  if (event.target.id !== "map" || !map || event.button !== 0) return;
  start = { x: event.offsetX, y: event.offsetY };
  event.target.setPointerCapture(event.pointerId);
});

document.addEventListener("pointermove", (event) => {
  if (event.target.id !== "map" || !map) return;
  if (start && Math.hypot(event.offsetX - start.x, event.offsetY - start.y) > 4) {
    setBox({ x0: backX(start.x), x1: backX(event.offsetX), y0: backY(start.y), y1: backY(event.offsetY) });
  } else if (!start) {
    const i = nearest(event.offsetX, event.offsetY);
    event.target.title = i < 0 ? "" : `${map.points.phrase[i]}: ${map.points.searches[i]} searches`;
  }
});

document.addEventListener("pointerup", (event) => {
  if (event.target.id !== "map" || !map || !start) return;
  const moved = Math.hypot(event.offsetX - start.x, event.offsetY - start.y) > 4;
  start = null;
  if (moved) return take();
  const i = nearest(event.offsetX, event.offsetY);
  if (i >= 0) openDrawer(map.points.id[i]);
});

document.addEventListener(
  "wheel",
  (event) => {
    if (event.target.id !== "map" || !map) return;
    event.preventDefault();
    zoom(event.deltaY < 0 ? 1.25 : 0.8, event.offsetX, event.offsetY);
  },
  { passive: false },
);

document.addEventListener(
  "keydown",
  (event) => {
    if (event.target.id !== "map" || !map || event.ctrlKey || event.metaKey || event.altKey) return;
    const b = map.box || { x0: 0, x1: Math.max(5, map.points.reach), y0: 100, y1: 5000 };
    const [dx, dy] = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key] || [
      0, 0,
    ];
    const times = 10 ** (dy * 0.1);
    if (dx || dy) {
      if (!map.box) setBox(b);
      else if (event.shiftKey) setBox({ ...b, x1: Math.max(b.x0 + 1, b.x1 + dx), y1: b.y1 * times });
      else setBox({ x0: b.x0 + dx, x1: b.x1 + dx, y0: b.y0 * times, y1: b.y1 * times });
    } else if (event.key === "Enter") take();
    else if (event.key === "Escape") setBox(null);
    else if (event.key === "+") zoom(1.25);
    else if (event.key === "-") zoom(0.8);
    else return;
    event.preventDefault();
    event.stopPropagation();
  },
  true,
);

let shown = null; // the canvas whose points are drawn, or on their way

function look() {
  const canvas = find("#map");
  if (canvas === shown) return;
  shown = canvas;
  map = null;
  if (canvas) begin(canvas);
}

document.addEventListener("htmx:after:swap", look);
matchMedia("(prefers-color-scheme: dark)").addEventListener("change", () => paint());
look();
