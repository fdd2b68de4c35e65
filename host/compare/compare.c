/* Compares two versions of a lexicon, and keeps what is found, grouped.
 * The parts are in texts.c and links.c.
 * It prints nothing. */
#include "compare/compare.h"

#include <string.h>

#include "compare/compare_parts.h"

const char *const finding_kinds[FINDING_KINDS] = {[FINDING_REFUSED] = "refused now",
                                                  [FINDING_OTHER] = "something else now",
                                                  [FINDING_OBEYED] = "obeyed now",
                                                  [FINDING_ANSWER] = "another answer",
                                                  [FINDING_EFFECT] = "not as long, far or often",
                                                  [FINDING_FRAME] = "sent otherwise",
                                                  [FINDING_EVENT] = "another event"};

static void finding_free(void *p)
{
    struct finding *f = p;
    g_free(f->subject), g_free(f->witness), g_free(f->was), g_free(f->is);
    g_free(f);
}

void finding_add(struct comparison *c, enum finding_kind kind, const char *subject,
                 const char *witness, const char *was, const char *is, unsigned line, unsigned now)
{
    for (unsigned i = 0; i < c->findings->len; i++) {
        struct finding *f = c->findings->pdata[i];
        bool texts = kind == FINDING_REFUSED || kind == FINDING_OTHER || kind == FINDING_OBEYED ||
                     kind == FINDING_ANSWER;
        if (!texts || f->kind != kind || strcmp(f->subject, subject) != 0) continue;
        f->more++;
        return;
    }
    struct finding *f = g_new0(struct finding, 1);
    *f = (struct finding){
        kind, g_strdup(subject), g_strdup(witness), g_strdup(was), g_strdup(is), 0, line, now};
    g_ptr_array_add(c->findings, f);
}

struct comparison *compare_files(const char *file, const char *file_now, GError **error)
{
    struct parser *old = parser_new(file, error), *now = old ? parser_new(file_now, error) : NULL;
    struct comparison *c = NULL;
    if (now) {
        meaning_renamed(old, now);
        c = g_new0(struct comparison, 1);
        c->name = g_strdup(old->lx->name);
        c->findings = g_ptr_array_new_with_free_func(finding_free);
        compare_texts(c, old, now);
        compare_links(c, old, now);
        compare_events(c, old, now);
        if (c->findings->len && now->lx->version <= old->lx->version)
            c->version = old->lx->version + 1;
        parser_free(now);
    }
    if (old) parser_free(old);
    return c;
}

void comparison_free(struct comparison *c)
{
    g_ptr_array_free(c->findings, TRUE);
    g_free(c->name);
    g_free(c);
}
