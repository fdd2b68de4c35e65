/* The bench for a page: what the board does as JSON texts, and what somebody at the page does.
 * docs/bench-protocol.md has the messages. */
#ifndef WEB_BENCH_H
#define WEB_BENCH_H

#include "endpoint/live.h"
#include "web/web.h"
#include "world/talk/talk.h"

struct web_bench;

/* Opens it at this path of the server. Before the boards are switched on. `scene`: the head of a
 * scene on such a bench, copied. `mistyped` is the talk's: it becomes true where a line for the
 * tool is none. */
struct web_bench *web_bench_new(struct web *web, const char *path, struct talk *talk,
                                const char *scene, bool *mistyped);
/* Before the server. */
void web_bench_free(struct web_bench *bench);
void web_bench_live(struct web_bench *bench, struct live *live);
/* What changed is sent: call it when all that is due was done. */
void web_bench_after(struct web_bench *bench);

#endif
