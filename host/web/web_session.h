/* What happened on a served board since it was switched on, kept as a trace with states: pages get
 * it at /session/trace, and drawn at /session/picture. */
#ifndef WEB_SESSION_H
#define WEB_SESSION_H

#include "web/web.h"

#define SESSION_MOST (256u * 1024 * 1024) /* bytes; what happens after that is not kept */

struct web_session;

/* From before bench_start() on. NULL after a message: nothing is kept. */
struct web_session *web_session_new(struct web *web, struct bench *bench);
void web_session_free(struct web_session *session);
/* As time goes by. NULL is fine. */
void web_session_look(struct web_session *session);

#endif
