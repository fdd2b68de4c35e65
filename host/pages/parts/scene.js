/* What was seen at the bench as a scene that `rlx play` plays: what was said, pressed and broken, the
 * answers, and the outputs where they came to rest before the next action.
 * Times are loosened: an answer may take twice as long and a second. What came unasked is left out.
 * It reads what the page recorded, and sends nothing. */
const RESTS_S = 0.3;

/* A tool line as a statement of a scene. */
function statementOf(line) {
    const input = /^(\S+) (on|off)$/.exec(line);
    if (input) return `push ${input[1]} ${input[2]}`;
    if (/^(press|release|slide|now) /.test(line)) return line;
    if (/^(jam|weld|dead|stick|cut|mend) /.test(line)) return `break "${line}"`;
    return `# ! ${line}: no statement of a scene does that`;
}

const isUnasked = text => /^<?(@\S+ )?(ev|note|ready)\b/.test(text);
const canBeWritten = text => /^[ !#-~]*$/.test(text); /* no quotes, no other characters */
const ms = seconds => `${Math.max(10, Math.round(seconds * 100) * 10)}ms`;

function sceneText(head, seen, now) {
    const lines = [], moved = new Map();
    let last = null, asked = 0;
    const rest = t => {
        for (const [name, s] of moved)
            if (t - s.t >= RESTS_S) {
                lines.push(`see ${name} ${s.state} within ${Math.ceil(Math.max(0, s.t - last) + 1)}s`);
                last = Math.max(last, s.t);
            }
        moved.clear();
    };
    const act = (t, line) => {
        if (last !== null) {
            rest(t);
            if (t - last > 0.02) lines.push(`wait ${ms(t - last)}`);
        }
        lines.push(line);
        last = asked = t;
    };
    for (const e of seen) {
        if (e.tool) act(e.t, statementOf(e.tool));
        else if (e.see && last !== null) moved.set(e.see, e);
        else if (e.what === "said" && canBeWritten(e.text))
            act(e.t, `${e.number ? `from ${e.who} "${e.number}"\n` : ""}say ${e.who} "${e.text}"`);
        else if (e.what === "answered" && last !== null && canBeWritten(e.text) && !isUnasked(e.text)) {
            const text = e.text.replace(/ waiting \d+ms.*$/, "*").replace(/^ok (\S.*) waiting.*$/, "ok $1*");
            lines.push(`hear ${e.who} "${text}" within ${Math.ceil(2 * (e.t - asked) + 1)}s`);
            last = e.t;
        }
    }
    if (last !== null) rest(now);
    return `# Seen at the bench. Change what is not meant, and give the scene a name of its own.\n${head}\n\nscene "Seen at the bench"\n${lines.join("\n")}\n`;
}
