/* What the files of the web server share. */
#ifndef WEB_PARTS_H
#define WEB_PARTS_H

#include <libsoup/soup.h>

#include "endpoint/parts.h"
#include "web/web.h"

#define WEB_LINKS "/link/"

struct web {
    SoupServer *server;
    GSocketService *service;
    GHashTable *pages;    /* path -> html */
    GHashTable *links;    /* name -> struct endpoint * */
    GHashTable *channels; /* path -> struct web_channel * */
    char *where, *key;    /* key: "?key=..." */
    char *folder;         /* NULL: there is none yet */
    guint port;
    bool anywhere, full;
    unsigned *connections; /* counted by those that are open, which may outlive this */
    void (*told)(void *user, const char *text);
    void *user;
};

/* The name behind WEB_LINKS, or NULL. */
const char *web_link_of(const char *path);
/* Requests of this path are looked at, too: only the handler of the longest path is asked. */
void web_checked(struct web *web, const char *path);
/* What every answer has. */
void web_put_headers(SoupMessageHeaders *headers);
void web_put_refusal(SoupServerMessage *message, guint status, const char *why);
/* web_files.c: the folder is gone, with all that is in it. */
void web_folder_end(struct web *web);
/* web_socket.c: links and channels. */
void web_sockets_begin(struct web *web);
void web_channels_end(struct web *web);
/* Whether there is one at this path, and it takes nobody more. */
bool web_channel_is_full(const struct web *web, const char *path);

#endif
