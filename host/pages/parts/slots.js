/* Slots: what a person fills in, and the text that the device wants of it.
 * Ranges are those of the lexicon; a value beyond them is not sent.
 * Nothing here sends. */
const UNITS = { ms: 1, s: 1000, min: 60000, h: 3600000 };

/* Milliseconds of "90s"; a bare number has the slot's unit. NaN: it is no time. */
function timeOf(text, bare) {
    const parts = /^(\d+)\s*(ms|s|min|h)?$/.exec(String(text).trim());
    return parts ? Number(parts[1]) * UNITS[parts[2] || bare] : NaN;
}

function timeText(ms) {
    for (const unit of ["h", "min", "s"]) if (ms && ms % UNITS[unit] === 0) return ms / UNITS[unit] + unit;
    return `${ms}ms`;
}

/* The number's text on the wire; throws what is wrong about it. */
function numberText(slot, given) {
    const text = String(given).trim(), range = `${slot.low} to ${slot.high}${slot.unit ? ` ${slot.unit}` : ""}`;
    const is = { time: t => timeOf(t, slot.bare_unit),
                 hex: t => /^(0x)?[0-9a-f]+$/i.test(t) ? parseInt(t.replace(/^0x/i, ""), 16) : NaN }[slot.form]
             || (t => /^-?\d+(\.\d+)?$/.test(t) ? Number(t) : NaN);
    const bound = b => slot.form === "time" ? timeOf(b, slot.bare_unit) : Number(b);
    const value = is(text), decimals = slot.decimals || 0;
    if (!Number.isFinite(value) || value < bound(slot.low) || value > bound(slot.high) ||
        (slot.form === "whole" && !Number.isInteger(value)))
        throw new Error(`${slot.name || "value"}: ${range}`);
    const written = slot.form === "time" ? timeText(value)
                  : slot.form === "hex" ? `0x${value.toString(16).toUpperCase()}`
                  : value.toFixed(decimals);
    if (slot.form === "fraction" && Math.abs(Number(written) - value) > 1e-9)
        throw new Error(`${slot.name || "value"}: at most ${decimals} digits behind the point`);
    return (slot.behind || "") + written.replace(/^-(0\.?0*)$/, "$1") + (slot.unit_required ? slot.unit : "");
}

function textText(slot, given) {
    const count = bytesOf(given).length;
    if (count < slot.least_bytes || count > slot.most_bytes)
        throw new Error(`${slot.name}: ${slot.least_bytes} to ${slot.most_bytes} bytes`);
    const rest = slot.kind === "rest";
    if (rest ? /[^ -~]/.test(given) || given !== given.trim() : /[\x00-\x1f\x7f"]/.test(given))
        throw new Error(rest ? `${slot.name}: letters, digits and signs of ASCII, no blank at its ends`
                             : `${slot.name}: no quotes and no line ends`);
    return rest ? given : `"${given}"`;
}

/* A slider and a field for a number that fits one. */
function numberField(slot, label) {
    const slides = (slot.form === "whole" || slot.form === "fraction") && slot.high !== slot.low;
    const step = slot.form === "fraction" ? 10 ** -slot.decimals : 1;
    const low = Number(slot.low), high = Number(slot.high), begins = slot.default !== undefined ? slot.default
              : slides ? Math.min(Math.max(0, low), high) : slot.low;
    const field = element("input", { type: slides ? "number" : "text", value: begins, "aria-label": label,
                                     min: slides && low, max: slides && high, step: slides && step,
                                     inputmode: slides && low >= 0 ? "decimal" : undefined });
    if (!slides)
        return { value: () => numberText(slot, field.value), fields: [field, element("small", {}, `${slot.low} … ${slot.high}`)], field };
    const slider = element("input", { type: "range", min: low, max: high, step, value: begins, "aria-label": `${label}, slider` });
    slider.oninput = () => { field.value = slider.value; };
    field.oninput = () => { slider.value = field.value; };
    return { value: () => numberText(slot, field.value), field, slider,
             fields: [element("small", {}, String(low)), slider, element("small", {}, `${high}`), field,
                      element("span", { class: "unit" }, slot.unit || "")] };
}

function wordsField(slot, label) {
    const boxes = slot.words.map(word => element("input", { type: "checkbox", value: word }));
    return { value: () => boxes.filter(b => b.checked).map(b => b.value).join("+") || "none",
             fields: [element("span", { class: "set", role: "group", "aria-label": label },
                              ...boxes.map(b => element("label", {}, b, b.value)))] };
}

function choiceField(slot, label) {
    const field = element("select", { "aria-label": label }, ...slot.words.map(w => element("option", {}, w)));
    if (slot.default !== undefined) field.value = slot.default;
    return { value: () => field.value, fields: [field], field };
}

function listField(slot, label) {
    const field = element("input", { type: "text", "aria-label": label, placeholder: `up to ${slot.most} numbers: 1,2,3` });
    return { field, fields: [field], value: () => {
        const each = field.value.split(",");
        if (each.length > slot.most) throw new Error(`${slot.name}: at most ${slot.most} numbers`);
        return each.map(n => numberText({ ...slot, behind: "" }, n)).join(",");
    } };
}

function textField(slot, label) {
    const field = element("input", { type: "text", maxlength: slot.most_bytes, "aria-label": label });
    return { value: () => textText(slot, field.value), fields: [field], field };
}

/* {value() -> text, throws; fields: what stands on the page}. */
function slotField(slot, label) {
    const make = { number: numberField, choice: choiceField, set: wordsField, list: listField }[slot.kind] || textField;
    return make(slot, label);
}

/* A command's pattern: its words, and a field for each slot. */
function commandParts(pattern, label) {
    return pattern.filter(e => e.kind !== "filler").map(e =>
        typeof e === "string" ? { word: e } : e.kind === "word" ? { word: e.spellings[0] }
            : { slot: e, ...slotField(e, `${label}: ${e.name || e.kind}`) });
}
