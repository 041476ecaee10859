// A display of one's own: what the game shows, and a button that asks it for something.
const place = (name) => document.getElementById(name);
const states = ["watch.phase", "board.moored", "board.crates", "board.lost", "lamp.lit"];
const channels = [...states, "barges.moved", "barges.moored"];
const barges = new Map(); // cables to go, by number

const stream = new EventSource("/events?" + channels.map((c) => "channel=" + c).join("&"));
stream.onopen = () => (place("connection").textContent = "live");
stream.onerror = () => (place("connection").textContent = stream.readyState === EventSource.CLOSED ? "refused" : "no connection, trying again");
stream.addEventListener("refused", (message) => { // such as a name that is wrong; asking again would change nothing
  stream.close();
  place("connection").textContent = JSON.parse(message.data).detail;
});
stream.onmessage = (message) => {
  const { subject, data } = JSON.parse(message.data); // a CloudEvent
  if (subject === "lamp.lit") place(subject).textContent = data.value ? "burns" : "is out";
  else if (states.includes(subject)) place(subject).textContent = data.value;
  else if (subject === "barges.moved") barges.set(data.barge, data.to_go);
  else if (subject === "barges.moored") barges.delete(data.barge);
  const lines = [...barges].sort().map(([barge, to_go]) => `barge ${barge}: ${to_go} cables`);
  place("barges").replaceChildren(...lines.map((line) => Object.assign(document.createElement("li"), { textContent: line })));
};

// The token came behind the '#' of the address that the game has told.
const token = new URLSearchParams(location.hash.slice(1)).get("token");
place("ring").onclick = async () => {
  const answer = await fetch("/actions/bell.ring", {
    method: "POST",
    headers: { "Content-Type": "application/json", Authorization: "Bearer " + token },
    body: JSON.stringify({ at: "south bell", parameters: { strokes: 2 } }),
  });
  place("answer").textContent = answer.ok ? "it rang" : (await answer.json()).detail;
};
