/* Makes and reads seals, with GLib's HMAC.
 * Written from docs/security.md and not from the library.
 * It knows no command and keeps no key. */
#include "lexicon/seal.h"

#include <stdio.h>
#include <string.h>

/* RFC 2104, FIPS 180-4, RFC 4648: the first 8 bytes as base64url without padding. */
static void code_of(const struct seal *seal, enum seal_kind kind, const GString *frame, gsize at,
                    char code[SEAL_CODE])
{
    const bool answers = kind == SEAL_SESSION || kind == SEAL_ANSWER;
    const bool in_session = kind == SEAL_COMMAND || kind == SEAL_ANSWER;
    const guint32 session = GUINT32_TO_BE(in_session ? seal->session : 0);
    const guchar first = (guchar)kind;
    guint8 sum[32];
    gsize size = sizeof sum;
    GHmac *hmac = g_hmac_new(G_CHECKSUM_SHA256, (const guchar *)seal->key, strlen(seal->key));
    g_hmac_update(hmac, &first, 1);
    g_hmac_update(hmac, (const guchar *)seal->context, (gssize)strlen(seal->context) + 1);
    g_hmac_update(hmac, (const guchar *)&session, sizeof session);
    if (answers) g_hmac_update(hmac, (const guchar *)seal->question, SEAL_CODE);
    g_hmac_update(hmac, (const guchar *)frame->str, (gssize)at);
    g_hmac_update(hmac, (const guchar *)frame->str + at + SEAL_CODE,
                  (gssize)(frame->len - at - SEAL_CODE));
    g_hmac_get_digest(hmac, sum, &size);
    g_hmac_unref(hmac);
    char *text = g_base64_encode(sum, 8);
    for (unsigned i = 0; i < SEAL_CODE; i++)
        code[i] = text[i] == '+' ? '-' : text[i] == '/' ? '_' : text[i];
    g_free(text);
}

char *seal_frame(struct seal *seal, enum seal_kind kind, const char *around, uint32_t count,
                 const char *text)
{
    GString *frame = g_string_new(around);
    char code[SEAL_CODE];
    const char mark = kind == SEAL_OPENING ? '?' : kind == SEAL_SESSION ? '=' : '.';
    g_string_append_printf(frame, "!%u%c%u.", seal->number, mark, count);
    gsize at = frame->len;
    g_string_append_printf(frame, "%*s%s%s", (int)SEAL_CODE, "", mark == '.' ? " " : "",
                           mark == '.' ? text : "");
    code_of(seal, kind, frame, at, code);
    memcpy(frame->str + at, code, SEAL_CODE);
    if (kind == SEAL_OPENING || kind == SEAL_COMMAND) memcpy(seal->question, code, SEAL_CODE);
    return g_string_free(frame, FALSE);
}

bool seal_is_right(const struct seal *seal, enum seal_kind kind, const char *frame, uint32_t *count,
                   const char **text)
{
    const char *lead = strchr(frame, '!');
    unsigned number;
    int size = 0;
    char mark, code[SEAL_CODE];
    if (!lead || sscanf(lead, "!%u%c%u.%n", &number, &mark, count, &size) != 3 || !size)
        return false;
    const char wanted = kind == SEAL_OPENING ? '?' : kind == SEAL_SESSION ? '=' : '.';
    if (number != seal->number || mark != wanted || strlen(lead + size) < SEAL_CODE) return false;
    GString *all = g_string_new(frame);
    code_of(seal, kind, all, (gsize)(lead + size - frame), code);
    bool right = !memcmp(lead + size, code, SEAL_CODE);
    g_string_free(all, TRUE);
    *text = lead + size + SEAL_CODE;
    if (**text == ' ') ++*text;
    return right;
}
