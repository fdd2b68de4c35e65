/* In the place of host/web/web.c where the tool is built without libsoup.
 * It says so.
 * It serves nothing. */
#include "web/web.h"

struct web *web_new(const char *address, bool anywhere, void (*told)(void *user, const char *text),
                    void *user, GError **error)
{
    (void)address, (void)anywhere, (void)told, (void)user;
    g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_NOSYS,
                "this rlx was built without libsoup and serves no pages; --pty, --tcp and --unix "
                "it does");
    return NULL;
}

void web_free(struct web *web)
{
    (void)web;
}

const char *web_where(const struct web *web)
{
    (void)web;
    return NULL;
}

const char *web_key(const struct web *web)
{
    (void)web;
    return NULL;
}

void web_page(struct web *web, const char *path, const char *html)
{
    (void)web, (void)path, (void)html;
}

void web_links(struct web *web, struct serve *serve)
{
    (void)web, (void)serve;
}

struct web_channel *web_channel(struct web *web, const char *path, struct web_channel_calls calls)
{
    (void)web, (void)path, (void)calls;
    return NULL;
}

unsigned web_channel_count(const struct web_channel *channel)
{
    (void)channel;
    return 0;
}

void web_send(struct web_client *client, const char *text)
{
    (void)client, (void)text;
}

void web_send_all(struct web_channel *channel, const char *text)
{
    (void)channel, (void)text;
}

void web_files(struct web *web, const char *path, web_make make, void *user)
{
    (void)web, (void)path, (void)make, (void)user;
}

const char *web_request_path(const struct web_request *request)
{
    (void)request;
    return NULL;
}

const char *web_request_query(const struct web_request *request, const char *name)
{
    (void)request, (void)name;
    return NULL;
}

void web_give(struct web_request *request, const char *file, const char *type, const char *name)
{
    (void)request, (void)file, (void)type, (void)name;
}

void web_refuse(struct web_request *request, unsigned status, const char *why)
{
    (void)request, (void)status, (void)why;
}

const char *web_folder(struct web *web)
{
    (void)web;
    return NULL;
}
