/* Worked examples of frames: one command over each link, as it goes out and as its answer comes
 * back, byte for byte. */
#ifndef WORKED_H
#define WORKED_H

#include "lexicon/model.h"

struct worked {
    char *command; /* its text; of a key the text that the key stands for */
    GString *frame,
        *answer; /* with what ends or fills them; answer NULL: none comes, or it depends */
};

/* The frame of this text over the link, as its first sender says it first; `command` is owned by
 * the caller, and what is in it. */
GString *worked_frame(const struct lex_link *link, const char *text);
/* An example of the link; false: no command can be said over it. */
bool worked_example(const struct lexicon *lx, const struct lex_link *link, struct worked *worked);
void worked_clear(struct worked *worked);
/* What stands around each command: "@3/SOURCE #TAG COMMAND*CHECK"; NULL: nothing. Owned by the
 * caller. */
char *worked_form(const struct lex_link *link);
/* The bytes as people read them: "pump on<CR>". Owned by the caller. */
char *worked_shown(const GString *bytes);

#endif
