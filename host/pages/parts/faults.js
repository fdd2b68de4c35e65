/* Faults of a link, as fields: what was touched is one statement of a world file, which is so from then on.
 * A switch ends where the next statement does not have it, as in a world file.
 * It sends the line, and simulates nothing. */
const RATES = ["300", "1200", "2400", "4800", "9600", "19200", "38400", "57600", "115200", "230400"];
const NOISE = ["0%", "1/10000", "1/2000", "1/500", "1/100", "1/20"], LOSS = ["0%", "1%", "5%", "10%", "20%", "50%", "100%"];

/* Of each medium: statements with sliders (name, values, what the statement says of a value) and switches. */
const CABLE = { statement: "cable", baud: true, sliders: [["noise", NOISE], ["loss", LOSS]], switches: ["crossed"] };
const FAULTS = {
    serial: [CABLE],
    bridge: [{ ...CABLE, sliders: [...CABLE.sliders, ["delay", ["0ms", "50ms", "200ms", "1s"], v => `latency ${v}`]], switches: ["crossed", "out of range"] }],
    modem: [CABLE, { statement: "modem", sliders: [["loss in the air", LOSS, v => `loss ${v}`]], switches: ["half"] }],
    radio: [{ statement: "air", sliders: [["loss", ["0%", "5%", "10%", "20%", "50%", "80%", "100%"]], ["delay", ["0%", "10%", "30%", "80%"], v => `delay ${v} by 300ms`]],
              switches: ["out of range"], words: { "out of range": "loss 100%" }, after: { "out of range": "loss 0%" } }],
    report: [{ statement: "reports", sliders: [["delay", ["1ms", "20ms", "200ms", "2s"], v => `poll ${v}`]], switches: ["unplugged", "stale"] }],
    sms: [{ statement: "sms", sliders: [["loss", ["0%", "10%", "50%", "100%"]], ["delay", ["3s", "30s", "2min", "10min"], v => `delay ${v}`]],
            switches: ["no network", "silent"], words: { "no network": "unregistered" } }],
};

function faultFields(link, { statement, sliders, switches, baud, words = {}, after = {} }) {
    const touched = new Map(), on = new Set(), line = element("code", {}, "");
    const send = () => {
        const all = [...touched.values(), ...[...on].map(name => words[name] || name)];
        line.textContent = `${statement} ${link.name} ${all.join(" ")}`;
        tool(`now ${line.textContent}`);
    };
    const fields = sliders.map(([name, values, says = v => `${name} ${v}`]) => {
        const field = element("input", { type: "range", min: 0, max: values.length - 1, value: 0, "aria-label": `${name} of ${link.name}`, "data-fault": `${link.name} ${name}` });
        const shown = element("output", {}, values[0]);
        field.onchange = () => {
            shown.textContent = values[field.value];
            field.setAttribute("aria-valuetext", values[field.value]);
            touched.set(name, says(values[field.value]));
            send();
        };
        return element("label", {}, name, field, shown);
    });
    if (baud && link.baud) {
        const rates = [...new Set([...RATES, String(link.baud)])].sort((a, b) => a - b);
        const field = element("select", { "aria-label": `baud rate of the sender of ${link.name}`, "data-fault": `${link.name} baud` },
                              ...rates.map(r => element("option", { value: r, selected: r === String(link.baud) }, r)));
        field.onchange = () => {
            touched.set("baud", `baud ${field.value}`);
            send();
        };
        fields.push(element("label", {}, "sender's baud rate", field));
    }
    for (const name of switches) {
        const field = element("input", { type: "checkbox", "data-fault": `${link.name} ${name}` });
        field.onchange = () => {
            if (after[name]) touched.delete(name);
            if (field.checked) on.add(name);
            else on.delete(name);
            if (!field.checked && after[name]) touched.set(name, after[name]);
            if (!field.checked && !after[name] && !touched.size) touched.set("noise", NOTHING[statement]);
            send();
        };
        fields.push(element("label", {}, field, name));
    }
    return element("div", { class: "faults" }, ...fields, line);
}

/* A statement that changes nothing but what a switch was. */
const NOTHING = { cable: "noise 0%", modem: "loss 0%", air: "loss 0%", reports: "poll 1ms", sms: "loss 0%" };

function linkFaults(link) {
    const groups = FAULTS[link.medium] || [];
    if (!groups.length || link.name.includes(".")) return [];
    return [element("details", { "data-faults": link.name }, element("summary", {}, "faults"), ...groups.map(g => faultFields(link, g)))];
}
