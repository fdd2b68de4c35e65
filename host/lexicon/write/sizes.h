/* How long replies get, and what buffers the links need for them. */
#ifndef SIZES_H
#define SIZES_H

#include "lexicon/model.h"

/* Fills reply, receive, transmit and longest of each link where the lexicon left them open. */
void lexicon_size_links(struct lexicon *lx, const char *greeting);

#endif
