/* Any bytes as a recording: what was learnt, a lexicon for it, a second recording that confirms it.
 * Never a crash or a hang, nor is reading the proposed lexicon one. */
#include <stdlib.h>
#include <string.h>

#include "fuzz.h"
#include "learn/learn.h"

static void learn_all(const struct recording *r)
{
    struct learnt *l = learn(r, NULL), *again = learn(r, l);
    GString *out = g_string_new(NULL);
    char *text = learnt_lexicon(l), *report = learnt_report(l);
    struct lexicon *lx = lexicon_read_text("learnt", g_strdup(text), strlen(text));
    learnt_confirm(l, again, out);
    g_string_free(out, TRUE);
    lexicon_free(lx);
    g_free(report);
    g_free(text);
    learnt_free(again);
    learnt_free(l);
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    char *name = fuzz_file(data, size);
    GError *error = NULL;
    if (!name) return 0;
    struct recording *r = recording_read(name, NULL, NULL, &error);
    if (!r && !error) abort();
    if (r) learn_all(r);
    recording_free(r);
    g_clear_error(&error);
    g_remove(name);
    g_free(name);
    return 0;
}
