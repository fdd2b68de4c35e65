/* Each kind of output as what it is: a drawing, and how it follows the board.
 * Positions, speeds and lightness are those of the simulated load. The text beside each says the
 * same, so that nothing is told by colour alone.
 * Nothing here sends. */
const svg = (name, attributes = {}, ...inside) => {
    const e = document.createElementNS("http://www.w3.org/2000/svg", name);
    for (const [key, value] of Object.entries(attributes)) e.setAttribute(key, value);
    e.append(...inside);
    return e;
};

const picture = (...inside) => svg("svg", { viewBox: "0 0 160 80", "aria-hidden": "true" }, ...inside);

function drawRelay() {
    const lever = svg("line", { class: "moves", x1: 50, y1: 45, x2: 108, y2: 45 });
    const drawn = picture(svg("path", { class: "wire", d: "M15 45H50M110 45H145" }),
                          svg("circle", { class: "body", cx: 50, cy: 45, r: 5 }),
                          svg("circle", { class: "body", cx: 110, cy: 45, r: 5 }), lever);
    return { drawn, show: s => lever.setAttribute("transform", `rotate(${s.on ? 0 : -28} 50 45)`) };
}

function drawLamp() {
    const lamp = svg("circle", { class: "lamp", cx: 80, cy: 40, r: 24 });
    const rays = svg("path", { class: "wire", d: "M80 4V10M80 70V76M44 40H50M110 40H116M55 15L59 19M101 61L105 65M105 15L101 19M59 61L55 65" });
    return { drawn: picture(rays, lamp), show: s => {
        lamp.setAttribute("fill-opacity", s.looks / 100);
        rays.setAttribute("opacity", s.looks / 100);
    } };
}

function drawBuzzer() {
    const waves = svg("path", { class: "moves", d: "M96 28Q106 40 96 52M108 20Q124 40 108 60" });
    return { drawn: picture(svg("path", { class: "body", d: "M50 32H64L84 18V62L64 48H50Z" }), waves),
             show: s => waves.setAttribute("opacity", s.safe ? 0 : 1) };
}

/* A wheel that turns as fast as its shaft: one turn a second at full speed. */
function wheel(x, y, r) {
    const turns = svg("path", { class: "moves", d: `M${x} ${y}V${y - r + 4}M${x} ${y}L${x + r * 0.7} ${y + r * 0.5}M${x} ${y}L${x - r * 0.7} ${y + r * 0.5}` });
    let angle = 0;
    return { drawn: svg("g", {}, svg("circle", { class: "body", cx: x, cy: y, r }), turns),
             turn: (speed, seconds) => {
                 angle = (angle + speed / 1000 * 360 * seconds) % 360;
                 turns.setAttribute("transform", `rotate(${angle} ${x} ${y})`);
             } };
}

function drawMotor() {
    const one = wheel(80, 40, 32);
    let speed = 0;
    return { drawn: picture(one.drawn), show: s => { [speed] = s.speed; }, move: seconds => one.turn(speed, seconds) };
}

function drawPair() {
    const left = wheel(40, 40, 28), right = wheel(120, 40, 28);
    let speeds = [0, 0];
    return { drawn: picture(svg("path", { class: "wire", d: "M68 40H92" }), left.drawn, right.drawn),
             show: s => { speeds = s.speed; },
             move: seconds => { left.turn(speeds[0], seconds); right.turn(speeds[1], seconds); } };
}

/* A gate in its frame: shut at the bottom, open at the top. */
function drawGate() {
    const panel = svg("rect", { class: "panel", x: 52, y: 8, width: 56, height: 64 });
    const up = svg("path", { class: "moves", d: "M130 50V30M124 37L130 29L136 37" });
    const down = svg("path", { class: "moves", d: "M130 30V50M124 43L130 51L136 43" });
    return { drawn: picture(svg("path", { class: "wire", d: "M48 4V76H112V4" }), panel, up, down), show: s => {
        panel.setAttribute("height", 64 - 60 * s.place / 1000);
        up.setAttribute("opacity", s.state === "opening" ? 1 : 0);
        down.setAttribute("opacity", s.state === "closing" ? 1 : 0);
    } };
}

const share = (place, range) => range && range[1] !== range[0] ? (place - range[0]) / (range[1] - range[0]) : 0;

function drawServo(output) {
    const arm = svg("line", { class: "moves", x1: 80, y1: 64, x2: 80, y2: 18 });
    return { drawn: picture(svg("path", { class: "wire", d: "M36 64A44 44 0 0 1 124 64" }), svg("circle", { class: "body", cx: 80, cy: 64, r: 7 }), arm),
             show: s => arm.setAttribute("transform", `rotate(${-70 + 140 * share(s.place, output.range)} 80 64)`) };
}

function drawStepper(output) {
    const carriage = svg("rect", { class: "panel", x: 12, y: 26, width: 20, height: 24 });
    return { drawn: picture(svg("path", { class: "wire", d: "M12 56H148M12 50V62M148 50V62" }), carriage),
             show: s => carriage.setAttribute("transform", `translate(${116 * Math.min(1, Math.max(0, share(s.place, output.range)))} 0)`) };
}

const DRAWINGS = { relay: drawRelay, led: drawLamp, buzzer: drawBuzzer, motor: drawMotor, pair: drawPair,
                   reverser: drawGate, servo: drawServo, stepper: drawStepper };
/* What can happen to each, by its word in `rlx talk`. */
const BREAKS = { relay: ["weld"], led: ["dead"], motor: ["jam"], pair: ["jam"], reverser: ["jam"], servo: [], stepper: ["jam"], buzzer: [] };
