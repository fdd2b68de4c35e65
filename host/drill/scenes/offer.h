/* A failure as a scene that somebody else can play: it fails on what failed and passes on the
 * lexicon's own tables, or it is not offered. */
#ifndef OFFER_H
#define OFFER_H

#include "drill/judge/shrink.h"

/* With "LEXICON" and "WORLD" for the names of the files. NULL: none fails on the one and passes on
 * the other. Owned by the caller. */
char *offer_scene(const struct setup *setup, const GArray *moves, const struct failing *failing,
                  const char *title);

/* The same of a scene, which failed by itself or did something else than the reference model. */
char *offer_played(const struct setup *setup, const char *scene);

#endif
