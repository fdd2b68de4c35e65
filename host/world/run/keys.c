/* Gives simulated boards the sample keys of their lexicon.
 * A board of the reference model writes them into its memory, which is then the other board's.
 * It knows no seal. */
#include "world/run/keys.h"

#include <string.h>

#include "rlx/hmac.h"
#include "world/run/running_parts.h"

/* So long it takes to write all settings at most. */
#define WRITTEN_US 5000000

char *keys_sample(const char *name)
{
    GString *key = g_string_new("sample-key-of-");
    g_string_append(key, name);
    g_string_truncate(key, MIN(key->len, RLX_HMAC_KEY_MOST));
    while (key->len < RLX_HMAC_KEY_LEAST) g_string_append_c(key, '-');
    return g_string_free(key, FALSE);
}

const struct lex_seal_key *keys_of_sender(const struct lexicon *lx, const struct lex_link *link,
                                          unsigned sender, unsigned *number)
{
    GPtrArray *keys = lex_keys_of(lx, link);
    const struct lex_seal_key *found = NULL;
    for (unsigned i = 0; i < keys->len && !found; i++) {
        const struct lex_seal_key *key = keys->pdata[i];
        bool its = sender ? key->sender == sender : key->sender || !link->senders;
        if (its) found = key, *number = i + 1;
    }
    g_ptr_array_free(keys, TRUE);
    return found;
}

static void on_nothing(void *user, struct sim_event event)
{
    (void)user, (void)event;
}

void device_give_keys(struct device *device, const struct image *image)
{
    const struct lexicon *lx = device->lx;
    if (!lx->seal_keys->len || !device->kind->keep) return;
    struct world *world = world_new();
    struct device *writer = device_of_image(world, lx, image, 0, NULL);
    device_start(writer, on_nothing, NULL);
    for (unsigned i = 0; i < lx->seal_keys->len; i++) {
        const char *name = ((struct lex_seal_key *)lx->seal_keys->pdata[i])->name;
        char *key = keys_sample(name);
        guint setting = 0;
        g_ptr_array_find(lx->settings, lexicon_setting(lx, name), &setting);
        rlx_key_store(device_core(writer), (uint8_t)setting, key, (uint8_t)strlen(key));
        g_free(key);
    }
    writer->kind->run(writer);
    while (world_step(world, WRITTEN_US)) {}
    const struct sim_board *board = device_board(writer);
    device->kind->keep(device, board->nv, sizeof board->nv);
    device_free(writer);
    world_free(world);
}
