/* Files of the web server that are made when somebody asks for them: a trace, a picture.
 * Who makes one answers at once or later; the request waits meanwhile.
 * It makes none itself. */
#include <glib/gstdio.h>
#include <string.h>

#include "files/files.h"
#include "web/web_parts.h"

#define FILE_MOST (512u * 1024 * 1024)

struct web_request {
    SoupServerMessage *message;
    GHashTable *query;
    char *path;
    bool paused, over, gone; /* gone: nobody waits for it any more */
};

struct maker {
    web_make make;
    void *user;
};

static void on_gone(SoupServerMessage *message, gpointer user)
{
    struct web_request *r = user;
    (void)message;
    r->gone = true;
}

static void finish(struct web_request *r)
{
    r->over = true;
    if (!r->paused) return;
    g_signal_handlers_disconnect_by_data(r->message, r);
    if (!r->gone) soup_server_message_unpause(r->message);
    g_object_unref(r->message);
    if (r->query) g_hash_table_unref(r->query);
    g_free(r->path);
    g_free(r);
}

void web_refuse(struct web_request *r, unsigned status, const char *why)
{
    web_put_refusal(r->message, status, why);
    finish(r);
}

void web_give(struct web_request *r, const char *file, const char *type, const char *name)
{
    char *text, *shown;
    size_t size;
    GError *error = NULL;
    if (!files_read(file, FILE_MOST, &text, &size, &error)) {
        web_refuse(r, SOUP_STATUS_INTERNAL_SERVER_ERROR, error->message);
        g_error_free(error);
        return;
    }
    SoupMessageHeaders *headers = soup_server_message_get_response_headers(r->message);
    web_put_headers(headers);
    if (name) {
        shown = g_strdup_printf("attachment; filename=\"%s\"", name);
        soup_message_headers_append(headers, "Content-Disposition", shown);
        g_free(shown);
    }
    soup_server_message_set_status(r->message, SOUP_STATUS_OK, NULL);
    soup_server_message_set_response(r->message, type, SOUP_MEMORY_TAKE, text, size);
    finish(r);
}

const char *web_request_path(const struct web_request *r)
{
    return r->path;
}

const char *web_request_query(const struct web_request *r, const char *name)
{
    return r->query ? g_hash_table_lookup(r->query, name) : NULL;
}

static void serve_file(SoupServer *server, SoupServerMessage *message, const char *path,
                       GHashTable *query, gpointer user)
{
    (void)server;
    const struct maker *maker = user;
    if (soup_server_message_get_method(message) != SOUP_METHOD_GET) {
        web_put_refusal(message, SOUP_STATUS_METHOD_NOT_ALLOWED, "Files are only read.\n");
        return;
    }
    struct web_request *r = g_new(struct web_request, 1);
    *r = (struct web_request){.message = message, .query = query, .path = g_strdup(path)};
    maker->make(maker->user, r);
    if (r->over) {
        g_free(r->path);
        g_free(r);
        return;
    }
    r->paused = true;
    g_object_ref(message);
    g_signal_connect(message, "finished", G_CALLBACK(on_gone), r);
    g_signal_connect(message, "disconnected", G_CALLBACK(on_gone), r);
    if (query) g_hash_table_ref(query);
    soup_server_message_pause(message);
}

void web_files(struct web *web, const char *path, web_make make, void *user)
{
    struct maker *maker = g_new(struct maker, 1);
    *maker = (struct maker){make, user};
    web_checked(web, path);
    soup_server_add_handler(web->server, path, serve_file, maker, g_free);
}

/* ---- where they are ---- */

const char *web_folder(struct web *web)
{
    GError *error = NULL;
    if (!web->folder && !(web->folder = g_dir_make_tmp("rlx-web-XXXXXX", &error))) {
        web->told(web->user, error->message);
        g_error_free(error);
    }
    return web->folder;
}

void web_folder_end(struct web *web)
{
    GDir *all = web->folder ? g_dir_open(web->folder, 0, NULL) : NULL;
    for (const char *name; all && (name = g_dir_read_name(all));) {
        char *file = g_build_filename(web->folder, name, NULL);
        g_unlink(file);
        g_free(file);
    }
    if (all) g_dir_close(all);
    if (web->folder) g_rmdir(web->folder);
    g_free(web->folder);
}
