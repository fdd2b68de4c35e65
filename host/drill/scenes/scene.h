/* Scenes: scripted tests of a lexicon in a world, one statement a line, like a lexicon:
 *     lexicon "tidetank.lexicon"  world "skiff.world"
 *     scene "The pump by cable"
 *     say bench "pump off"
 *     hear bench "ok pump off" within 50ms
 *     see pump off
 * docs/scenes.md describes it. */
#ifndef SCENE_H
#define SCENE_H

#include "lexicon/write/table_image.h"
#include "lexicon/model.h"
#include "world/boards/world_file.h"

enum scene_what {
    SCENE_SAY,     /* who, text */
    SCENE_REPLAY,  /* who: an attacker, text: a pattern for packets that it heard */
    SCENE_TYPE,    /* who, text: bytes, as they are */
    SCENE_FROM,    /* who writes over the link, text: as this number */
    SCENE_HEAR,    /* who, text: a pattern, us: at the latest */
    SCENE_SILENCE, /* who (NULL: anybody), us */
    SCENE_SEE,     /* who: an output, text: its state, us; lasts_us: and stays so for this time */
    SCENE_STILL,   /* us: no output changes; text: none of these, separated by blanks */
    SCENE_PUSH,    /* who: an input, text: on or off */
    SCENE_PRESS,   /* who: a button */
    SCENE_RELEASE,
    SCENE_SLIDE,  /* who: a slider, text: to this */
    SCENE_BREAK,  /* text: what happens to a load */
    SCENE_NOW,    /* text: a statement of the world file */
    SCENE_WAIT,   /* us */
    SCENE_REPEAT, /* times: up to its end, at `other` */
    SCENE_END     /* `other`: where it began */
};

struct scene_step {
    enum scene_what what;
    struct lex_place place;
    char *who, *text;
    uint64_t us, lasts_us;
    unsigned times, other;
};

struct scene {
    struct lex_place place;
    char *title;
    GArray *steps; /* struct scene_step */
};

struct scene_file {
    char *name;
    char *firmware; /* NULL: the lexicon's tables */
    bool loads;
    uint32_t seed; /* 0: the world's */
    struct lexicon *lx;
    const struct image *image;
    bool borrowed;            /* both are somebody else's */
    struct world_file *world; /* empty where none is named */
    GPtrArray *scenes;        /* struct scene * */
    struct lexicon *read;     /* whose faults are those of the file */
};

/* NULL where it cannot be read at all; otherwise its faults are in file->read. */
struct scene_file *scene_file_read(const char *name, GError **error);
/* Statements without a head, for this lexicon, in this world; the first two must outlive it. */
struct scene_file *scene_file_of(struct lexicon *lx, const struct image *image, const char *world,
                                 const char *text);
void scene_file_free(struct scene_file *file);

/* The statements there are. */
const struct lex_statement_kind *scene_statements(void);

#endif
