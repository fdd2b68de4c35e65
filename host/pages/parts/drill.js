/* A drill as it runs: what failed, and a matrix that fills; a cell or a failure is played and shown.
 * The drill is the server's; this adds up what comes of it.
 * It judges nothing. */
const shown = { cells: new Map(), sums: new Map(), failures: [], links: [], runs: false, known: false, last: null };

const MOST_SHOWN = 100; /* failures */
const keyOf = c => [c.command, c.link, c.fault || "", c.strength || ""].join("\n");

function addCell(c) {
    const known = shown.cells.get(keyOf(c));
    if (!known) {
        shown.cells.set(keyOf(c), { ...c });
        return;
    }
    for (const count of ["cases", "passed", "lost", "wrong"]) known[count] = (known[count] || 0) + (c[count] || 0);
    known.plays = known.plays || c.plays;
}

/* ---- one that is played ---- */

async function show(title, what, button) {
    if (shown.last) shown.last.setAttribute("aria-pressed", "false");
    shown.last = button;
    button.setAttribute("aria-pressed", "true");
    at("shown").hidden = false;
    at("shown-title").textContent = title;
    at("shown-state").textContent = "it is played …";
    at("shown-picture").hidden = true;
    at("shown-bench").hidden = true;
    at("shown-texts").replaceChildren();
    at("shown").scrollIntoView({ block: "nearest" });
    try {
        const played = await playMessage(what), behind = location.search;
        const path = `/replay/${played.number}/`;
        if (shown.last !== button) return;
        const answer = await fetch(path + "trace" + behind);
        if (!answer.ok) throw new Error(await answer.text());
        showTrace((await answer.text()).split("\n").filter(line => line).map(line => JSON.parse(line)));
        at("shown-state").textContent = played.passed ? "Played as a scene: it passes." : "Played as a scene: it fails.";
        at("shown-picture").src = path + "picture" + behind;
        at("shown-picture").alt = `Timeline of ${title}`;
        at("shown-picture").hidden = !played.picture;
        at("shown-bench").href = `/?replay=${played.number}${behind.replace("?", "&")}`;
        at("shown-bench").hidden = false;
    } catch (e) {
        if (shown.last === button) at("shown-state").textContent = `It cannot be shown: ${e.message}`;
    }
}

const BEGINS_US = 2900000; /* scenes begin 3 s after power-up */
const WAYS = { said: ">", answered: "<", failed: "✗", lost: "x" };

function showTrace(lines) {
    const several = new Set(lines.filter(m => m.what === "said" || m.what === "answered").map(m => m.name)).size > 1;
    for (const m of lines) {
        if (m.t_us < BEGINS_US || !WAYS[m.what]) continue;
        const text = m.what === "failed" ? `expected ${m.expected}; came: ${m.came}` : `${several ? `${m.name}  ` : ""}${m.text}`;
        at("shown-texts").append(element("li", { class: m.what }, element("span", { class: "way" }, WAYS[m.what]),
                                         element("time", {}, `${(m.t_us / 1e6).toFixed(3)} s`), text));
    }
}

/* ---- failures ---- */

function failureCard(f, number) {
    const button = element("button", { type: "button", "aria-pressed": "false" }, "Play it");
    const title = `${f.case} over ${f.link}${f.text ? `: ${f.text}` : ""}`;
    button.onclick = () => show(title, { failure: number }, button);
    const alike = f.alike > 1 ? ` and ${f.alike - 1} more like it` : "";
    return element("details", { "data-failure": number }, element("summary", {}, "✗ ", element("strong", {}, title), ` (${f.tried}${f.fault ? `; ${f.fault} ${f.strength}` : ""})${alike}`,
                   element("p", { class: "why" }, `Expected ${f.expected}; came: ${f.came}`)),
                   ...(f.around ? [element("pre", {}, f.around.join("\n"))] : []), ...(f.plays ? [button] : [element("p", { class: "faint" }, "No scene shows it.")]));
}

/* One of each cause; while the drill runs they come one by one. */
function showFailures() {
    const firsts = shown.failures.map((f, i) => [f, i]).filter(([f]) => !f.nth || f.nth === 1);
    const there = shown.runs ? at("failed").children.length : 0;
    at("failures").hidden = !firsts.length;
    if (!there) at("failed").replaceChildren();
    at("failed").append(...firsts.slice(there, MOST_SHOWN).map(([f, i]) => failureCard(f, i)));
}

/* ---- matrices ---- */

/* A cell stays the same element while its counts grow: somebody may be about to click it. */
function cellElement(key) {
    const button = element("button", { type: "button", "aria-pressed": "false" }), td = element("td", { "data-cell": key }, button);
    button.onclick = () => {
        const c = shown.sums.get(key);
        show(titleOf(c), { cell: { command: c.command, link: c.link, fault: c.fault, strength: c.strength } }, button);
    };
    return td;
}

const titleOf = c => `${c.command} over ${c.link}${c.fault ? `, ${c.fault} ${c.strength}` : ""}`;

function setCell(td, c) {
    const bad = c.passed < c.cases;
    const wrong = c.wrong ? `, ⚠ ${c.wrong} wrong` : "", failed = bad ? `, ✗ ${c.cases - c.passed} failed` : "";
    const text = c.fault ? `${c.strength}: ${c.lost} of ${c.cases}${wrong}${failed}` : bad ? `✗ ${c.passed} of ${c.cases}` : `✓ ${c.cases}`;
    td.className = bad ? "bad" : "";
    td.firstChild.textContent = text;
    td.firstChild.disabled = !c.plays;
    td.firstChild.setAttribute("aria-label", `${titleOf(c)}: ${text}`);
}

/* The row of a table's body with this name, at its end where it is new. */
function rowOf(table, name, columns) {
    let row = [...table.tBodies[0].rows].find(r => r.dataset.row === name);
    if (!row) {
        row = element("tr", { "data-row": name }, element("th", { scope: "row" }, name.replace("\n", ": ")), ...Array.from({ length: columns }, () => element("td", { class: "none" }, "–")));
        table.tBodies[0].append(row);
    }
    return row;
}

function putCell(table, name, column, columns, key, c) {
    const row = rowOf(table, name, columns);
    while (row.cells.length <= column + 1) row.append(element("td", { class: "none" }));
    if (row.cells[column + 1].dataset.cell !== key) row.cells[column + 1].replaceWith(cellElement(key));
    setCell(row.cells[column + 1], c);
}

function emptyTables() {
    for (const [id, corner] of [["commands", "command"], ["parts", ""]])
        at(id).replaceChildren(element("thead", {}, element("tr", {}, element("th", { scope: "col" }, corner), ...shown.links.map(l => element("th", { scope: "col" }, l)))), element("tbody"));
    at("faults").replaceChildren(element("tbody"));
}

/* All commands under one fault of a link together. */
function addToSum(sums, c) {
    const key = keyOf({ ...c, command: c.fault ? "" : c.command }), sum = sums.get(key);
    if (!sum) sums.set(key, { ...c });
    else for (const count of ["cases", "passed", "lost", "wrong"]) sum[count] += c[count] || 0;
    if (sum && c.plays && !sum.plays) Object.assign(sum, { plays: true, command: c.command });
}

/* "1/200", "5%", "20ms", "40% by 60ms" as a number that grows with it. */
function strengthOf(c) {
    const [, n, of, unit] = /^([\d.]+)(?:\/(\d+))?(%|ms|s)?/.exec(c.strength) || [null, 0];
    return Number(n) / (Number(of) || 1) * (unit === "s" ? 1000 : 1);
}

function showMatrices() {
    const columns = shown.links.length, strengths = new Map();
    shown.sums = new Map();
    for (const c of shown.cells.values()) if (c.fault !== "mixed") addToSum(shown.sums, c);
    for (const [key, c] of [...shown.sums].sort(([, a], [, b]) => a.fault && b.fault ? strengthOf(a) - strengthOf(b) : 0)) {
        if (!c.fault) {
            putCell(at(c.part ? "parts" : "commands"), c.command, shown.links.indexOf(c.link), columns, key, c);
            continue;
        }
        const row = `${c.link}\n${c.fault}`, column = strengths.get(row) || 0;
        strengths.set(row, column + 1);
        putCell(at("faults"), row, column, 0, key, c);
    }
    at("parts-of").hidden = !at("parts").tBodies[0].rows.length;
    at("faults-of").hidden = !strengths.size;
}

/* ---- how far it is ---- */

function showProgress(done, of, failed, over, wrong) {
    const cases = [...shown.cells.values()].reduce((n, c) => n + c.cases, 0);
    at("progress").hidden = !shown.runs;
    at("progress").max = of || 1;
    at("progress").value = done;
    at("start").disabled = shown.runs;
    at("stop").disabled = !shown.runs;
    at("verdict").className = failed || wrong ? "bad" : over ? "good" : "";
    at("verdict").textContent = wrong ? `It ended without a report: ${wrong}`
        : shown.runs ? `${done} of ${of || "?"} parts, ${cases} test cases, ${failed} failed`
        : over ? `${failed ? "✗" : "✓"} ${cases} test cases, ${failed} failed` : "No drill was started yet.";
}

/* Tables are made anew at most a few times a second. */
let due = 0;
function showSoon() {
    if (due) return;
    due = setTimeout(() => {
        due = 0;
        showMatrices();
        showFailures();
    }, 200);
}

const MESSAGES = {
    drill(m) {
        shown.cells.clear();
        m.cells.forEach(addCell);
        shown.failures = m.failures;
        shown.links = m.links;
        shown.runs = m.runs;
        if (!shown.known) {
            at("link").append(...m.links.map(l => element("option", { value: l }, l)));
            at("suite").append(...m.suites.map(s => element("option", { value: s }, s)));
        }
        if (!shown.known || !m.done) emptyTables();
        shown.known = true;
        clearTimeout(due);
        due = 0;
        at("about").textContent = m.firmware ? `the program ${m.firmware}` : "the lexicon's own tables";
        showMatrices();
        showFailures();
        showProgress(m.done, m.of, m.failed, m.over, m.wrong);
    },
    part(m) {
        m.cells.forEach(addCell);
        shown.failures.push(...m.failures);
        showProgress(m.done, m.of, m.failed);
        showSoon();
    },
    wrong(m) {
        at("verdict").textContent = m.why;
        at("verdict").className = "bad";
    },
};

function say(text, kind) {
    at("state").textContent = text;
    at("state").className = kind || "";
}

async function connect() {
    try {
        await connectDrill(MESSAGES, () => {
            say("the server is gone: trying again", "lost");
            setTimeout(connect, 2000);
        });
        say("connected", "on");
    } catch (e) {
        say(e.message, "lost");
    }
}

at("title").textContent = `Drill of ${lexicon.card.lexicon} ${lexicon.card.version}`;
at("to-bench").href = `/${location.search}`;
at("how").onsubmit = e => {
    e.preventDefault();
    if (!drilling.socket) return;
    const link = at("link").value, suite = at("suite").value;
    drilling.socket.send(JSON.stringify({ do: "drill", seed: Number(at("seed").value) || 1, ...(link ? { link } : {}), ...(suite ? { suite } : {}) }));
};
at("stop").onclick = () => { if (drilling.socket) drilling.socket.send(JSON.stringify({ do: "stop" })); };
connect();
