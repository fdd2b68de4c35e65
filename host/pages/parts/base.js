/* What the pages share: elements, what a text looks like, the lexicon.
 * Texts from a device become text, never markup.
 * Nothing here sends. */
const lexicon = JSON.parse(document.getElementById("lexicon").textContent);
const at = id => document.getElementById(id);

const element = (name, attributes = {}, ...inside) => {
    const e = document.createElement(name);
    for (const [key, value] of Object.entries(attributes)) {
        if (key === "class") e.className = value;
        else if (value === true) e.setAttribute(key, "");
        else if (value !== false && value !== undefined) e.setAttribute(key, value);
    }
    e.append(...inside);
    return e;
};

/* Control characters as numbers: a device may send any byte. */
const shownText = text => text.replace(/[\x00-\x1f\x7f]/g, c => `<${c.charCodeAt(0).toString(16).padStart(2, "0")}>`);

/* A row of a conversation; an older one goes where there are too many. */
function addRow(log, row, most) {
    const below = log.scrollHeight - log.scrollTop - log.clientHeight < 40;
    log.append(row);
    while (log.children.length > most) log.firstChild.remove();
    if (below) log.scrollTop = log.scrollHeight;
}
