/* Any bytes as a recording: what was learnt, a lexicon for it, a second recording that confirms it.
 * Never a crash or a hang, and a lexicon that can be read. */
#include <glib/gstdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

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
    char *name = NULL;
    GError *error = NULL;
    int file = g_file_open_tmp("rlx_learn_XXXXXX", &name, NULL);
    if (file < 0) return 0;
    close(file);
    g_file_set_contents(name, (const char *)data, (gssize)size, NULL);
    struct recording *r = recording_read(name, NULL, NULL, &error);
    if (!r && !error) abort();
    if (r) learn_all(r);
    recording_free(r);
    g_clear_error(&error);
    remove(name);
    g_free(name);
    return 0;
}
