// Gannet Reef, drawn from what its game shows. Copy this folder, and draw your own game.
import {
  bellRing,
  lampLit,
  onBargesBitten,
  onBargesMoored,
  onBargesMoved,
  onConnection,
  onHoistRaised,
  onWeatherFlashed,
  onWeatherThundered,
  onWyrmsDrivenOff,
  onWyrmsSighted,
  watchPhase,
} from "/client.js"; // which the gateway makes: a function for each name that the game shows or accepts

const place = (id) => document.getElementById(id);
const root = document.documentElement;
function shape(parent, kind, attributes, text = "") {
  const made = document.createElementNS("http://www.w3.org/2000/svg", kind);
  for (const [name, value] of Object.entries(attributes)) made.setAttribute(name, value);
  made.textContent = text;
  return parent.appendChild(made);
}
const say = (text) => {
  place("log").textContent = text;
};

// Where things are: barges come along lanes from the right, and a wyrm rises at its bearing, nearer ones lower and larger.
const quay = 168;
const laneOf = (barge) => 252 + ((barge - 1) % 5) * 54;
const atSea = (cables) => quay + 60 + Math.min(cables, 130) * 5.3;
const wyrmAt = ({ bearing, distance }) => ({
  x: 430 + (bearing / 360) * 490,
  y: 455 - Math.min(distance, 9) * 26,
  size: 1.1 - Math.min(distance, 9) / 14,
});

for (let i = 0; i < 26; ++i)
  shape(place("waves"), "path", { d: `M${(i * 173) % 900} ${204 + i * 11}q14 -9 28 0t28 0` });
for (let barge = 1; barge <= 5; ++barge) shape(place("lanes"), "path", { d: `M${quay} ${laneOf(barge) + 12}H960` });
for (let i = 0; i < 70; ++i) shape(place("rain"), "path", { d: `M${(i * 379) % 960} ${(i * 223) % 500}l-5 24` });

const barges = new Map(); // their pictures, by number
const wyrms = new Map();
function bargeOf(number) {
  if (!barges.has(number)) {
    const made = shape(place("barges"), "g", { "aria-label": `barge ${number}` });
    shape(made, "path", { d: "M-34 0h68l-9 17h-50z", fill: "#8a5a3c" });
    shape(made, "path", {
      d: "M-22 0v-13h18v13zM-2 0v-13h18v13zM-12 -13v-12h18v12z",
      fill: "#c9a36b",
      stroke: "#6b4a2a",
    });
    shape(made, "text", { y: 34, "text-anchor": "middle" });
    barges.set(number, made);
  }
  return barges.get(number);
}
function move(number, x, text) {
  const barge = bargeOf(number);
  barge.setAttribute("transform", `translate(${x} ${laneOf(number)})`);
  barge.lastChild.textContent = text;
}
function turnOn(element, name, milliseconds) {
  element.classList.remove(name);
  element.getBoundingClientRect(); // so that it begins again
  element.classList.add(name);
  setTimeout(() => element.classList.remove(name), milliseconds);
}
function newNight() {
  for (const one of [...barges.values(), ...wyrms.values(), ...place("hoist").querySelectorAll(".flag")]) one.remove();
  barges.clear();
  wyrms.clear();
}

// What is heard, and what it does here. A state comes with its value, first of all; a channel with each payload.
const flags = { whale: "#4f86b5", gull: "#e8e2d0", anchor: "#d9a441" };
watchPhase((value) => {
  if (value === "dusk") newNight();
  root.dataset.phase = value;
});
lampLit((value) => {
  root.classList.toggle("lit", value);
});
onBargesMoved(({ barge, to_go }) => {
  move(barge, atSea(to_go), `${barge}: ${to_go} cables`);
});
onBargesMoored(({ barge, berth, crates }) => {
  move(barge, quay + 28, `${barge}: berth ${berth}`);
  say(`Barge ${barge} is alongside with ${crates} crates.`);
});
onBargesBitten(({ barge, crates }) => {
  turnOn(bargeOf(barge), "bitten", 1000);
  say(`A wyrm bit barge ${barge}: ${crates} ${crates === 1 ? "crate is" : "crates are"} gone.`);
});
onWyrmsSighted((sighting) => {
  const { x, y, size } = wyrmAt(sighting);
  const made = shape(place("wyrms"), "g", {
    class: "wyrm",
    transform: `translate(${x} ${y}) scale(${size})`,
    "aria-label": `wyrm ${sighting.wyrm}`,
  });
  shape(made, "path", { d: "M-44 8q10 -36 22 0M-14 8q12 -44 26 0M22 8q2 -40 20 -38q14 2 16 8" });
  shape(made, "text", { x: 0, y: 28, "text-anchor": "middle" }, `${sighting.distance} cables`);
  wyrms.get(sighting.wyrm)?.remove();
  wyrms.set(sighting.wyrm, made);
  setTimeout(() => made.classList.add("gone"), 4000); // it has dived
  const angle = (Math.atan2(y - 67, x - 342) * 180) / Math.PI;
  place("beam").style.transform = `rotate(${angle}deg)`;
  place("beam").classList.add("aims");
  say(`Wyrm at ${sighting.bearing} degrees, ${sighting.distance} cables.`);
});
onWyrmsDrivenOff(({ wyrm }) => {
  wyrms.get(wyrm)?.classList.add("gone");
  place("beam").classList.remove("aims");
  say("The lamp has driven it off.");
});
onWeatherFlashed(({ distance }) => {
  turnOn(root, "flash", 800);
  say(`Lightning, ${distance} cables off.`);
});
onWeatherThundered(() => {
  say("Thunder.");
});
onHoistRaised(({ shown: flag, up }) => {
  const hoist = place("hoist");
  if (up === 1) for (const one of [...hoist.querySelectorAll(".flag")]) one.remove();
  const made = shape(hoist, "g", { class: "flag", "aria-label": `the ${flag}` });
  shape(made, "path", { d: `M36 ${72 + up * 26}h46l-12 10l12 10h-46z`, fill: flags[flag] });
  shape(made, "text", { x: 40, y: 86 + up * 26, style: "font-size:11px;fill:#10181e" }, flag);
});

onConnection(({ phase, text }) => {
  place("connection").textContent = text || phase;
  place("connection").classList.toggle("gone", text !== "");
  root.classList.toggle("gone", text !== "");
});

async function ring(bell) {
  try {
    await bellRing({ strokes: 2 }, bell.dataset.bell);
    place("answer").textContent = `The ${bell.dataset.bell} rang.`;
    turnOn(bell, "rings", 1500);
  } catch (failure) {
    place("answer").textContent = failure.message;
  }
}
for (const bell of document.querySelectorAll(".bell")) {
  bell.onclick = () => ring(bell);
  bell.onkeydown = (event) => event.key === "Enter" && ring(bell);
}
