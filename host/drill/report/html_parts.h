/* What the files of the report's page share. */
#ifndef HTML_PARTS_H
#define HTML_PARTS_H

#include <glib.h>
#include <jansson.h>

/* Filters failures by what somebody types, and opens the one that a link leads to. */
#define HTML_SCRIPT                                                                            \
    "(()=>{const f=document.getElementById('filter'),left=document.getElementById('left'),"    \
    "all=[...document.querySelectorAll('.failure')];"                                          \
    "const open=()=>{const e=document.getElementById(location.hash.slice(1));"                 \
    "for(let d=e;d;d=d.parentElement)if(d.tagName==='DETAILS')d.open=true;"                    \
    "if(e)e.scrollIntoView()};addEventListener('hashchange',open);if(location.hash)open();"    \
    "if(f)f.oninput=()=>{const w=f.value.toLowerCase().split(/[\\s,]+/).filter(x=>x);let n=0;" \
    "for(const d of all){const t=d.textContent.toLowerCase();"                                 \
    "d.hidden=!w.every(x=>t.includes(x));n+=!d.hidden}"                                        \
    "for(const s of document.querySelectorAll('.cause')){"                                     \
    "s.hidden=![...s.querySelectorAll('.failure')].some(d=>!d.hidden);"                        \
    "const m=s.querySelector('.more');if(m&&w.length)m.open=true}"                             \
    "left.textContent=w.length?`${n} of ${all.length}`:''}})()"

/* Escaped; control characters as numbers. */
void html_put(GString *out, const char *text);
/* The text as an element; `tag` may have attributes behind it. */
void html_put_in(GString *out, const char *tag, const char *text);

/* The failures, grouped by cause. */
void html_put_failures(GString *out, const json_t *report);
/* The number of the first failure of this command (NULL: any) over this link, under this fault
 * (NULL: none). */
int html_failure_of(const json_t *report, const char *command, const char *link, const char *fault);
/* Links to the page's parts. */
void html_put_contents(GString *out, const json_t *report);

#endif
