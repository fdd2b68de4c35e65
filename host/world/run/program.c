/* A firmware program in a process of its own, in lock-step with the world.
 * A socket pair; all waiting for the program has one deadline.
 * It does not know what the program does. */
#include "world/run/program.h"

#include <errno.h>
#include <fcntl.h>
#include <poll.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/prctl.h>
#include <sys/socket.h>
#include <sys/wait.h>
#include <unistd.h>

#include "sim/sim.h"

/* A program that has not answered after this many seconds of real time hangs; under an emulator or
 * a checker it takes longer: RLX_PATIENCE_S in the environment, 1..3600. */
#define PATIENCE_S 10
#define END_US     100000u /* for a program to end by itself, and once more after SIGTERM */
#define LINES_MOST 200u    /* of what it prints; then no more are shown */
#define MARK       "RLX_BOARD"

/* A program that answers at once, as it does a million times in a drill, needs one call for that;
 * what it prints is looked at when it has not answered for so long, and when it ends. */
static const struct timeval look_around = {.tv_usec = 20000};

struct program {
    pid_t pid;
    int socket, prints; /* prints: where its standard output and error come out */
    gint64 deadline_us;
    int patience_s;
    GString *line; /* that it is printing */
    unsigned lines;
    char *mark; /* in its environment, and that of all that it starts */
};

/* ---- what it prints ---- */

static void show_line(struct program *p)
{
    if (p->lines++ < LINES_MOST)
        for (char *c = p->line->str; *c; c++)
            if ((unsigned char)*c < ' ' || *c == 0x7F) *c = '?';
    if (p->lines <= LINES_MOST)
        g_printerr("firmware: %s\n", p->line->str);
    else if (p->lines == LINES_MOST + 1)
        g_printerr("firmware: it prints more than %u lines: the others are not shown\n",
                   LINES_MOST);
    g_string_truncate(p->line, 0);
}

static void take_prints(struct program *p)
{
    char bytes[4096];
    ssize_t n;
    for (unsigned reads = 0; reads < 16 && (n = read(p->prints, bytes, sizeof bytes)) > 0; reads++)
        for (ssize_t i = 0; i < n; i++) {
            if (bytes[i] != '\n' && p->line->len < 500) g_string_append_c(p->line, bytes[i]);
            if (bytes[i] == '\n') show_line(p);
        }
}

/* ---- begin ---- */

static void become(const char *path, int socket, int prints, int nv, const char *mark)
{
    char fd[16], memory[16];
    int nothing = open("/dev/null", O_RDONLY);
    setpgid(0, 0);
    prctl(PR_SET_PDEATHSIG, SIGKILL); /* nobody would end it */
    dup2(nothing, STDIN_FILENO);
    dup2(prints, STDOUT_FILENO);
    dup2(prints, STDERR_FILENO);
    g_snprintf(fd, sizeof fd, "%d", socket);
    g_snprintf(memory, sizeof memory, "%d", nv);
    setenv(SIM_WORLD_FD, fd, 1);
    setenv(SIM_NV_FD, memory, 1);
    setenv(MARK, mark, 1);
    execl(path, path, (char *)NULL);
    dprintf(STDERR_FILENO, "%s: %s\n", path, strerror(errno));
    _exit(127);
}

struct program *program_begin(const char *path, int nv, char **failure)
{
    static unsigned count;
    int pair[2], pipe_of[2];
    if (socketpair(AF_UNIX, SOCK_STREAM, 0, pair) != 0) {
        *failure = g_strdup_printf("socketpair: %s", strerror(errno));
        return NULL;
    }
    if (pipe2(pipe_of, O_CLOEXEC) != 0) {
        *failure = g_strdup_printf("pipe: %s", strerror(errno));
        close(pair[0]), close(pair[1]);
        return NULL;
    }
    struct program *p = g_new0(struct program, 1);
    p->socket = pair[0];
    p->prints = pipe_of[0];
    p->line = g_string_new(NULL);
    const char *patience = g_getenv("RLX_PATIENCE_S");
    p->patience_s = patience ? CLAMP(atoi(patience), 1, 3600) : PATIENCE_S;
    p->mark = g_strdup_printf("%d.%u", (int)getpid(), count++);
    fcntl(p->socket, F_SETFD, FD_CLOEXEC); /* another program does not keep it open */
    setsockopt(p->socket, SOL_SOCKET, SO_RCVTIMEO, &look_around, sizeof look_around);
    fcntl(p->prints, F_SETFL, O_NONBLOCK);
    p->pid = fork();
    if (p->pid == 0) become(path, pair[1], pipe_of[1], nv, p->mark);
    setpgid(p->pid, p->pid);
    close(pair[1]);
    close(pipe_of[1]);
    program_patience(p);
    return p;
}

/* ---- end ---- */

static bool ends_within(pid_t pid, unsigned most_us, int *status)
{
    unsigned us = 50;
    for (unsigned waited = 0; waited < most_us; waited += us, us *= 2) {
        if (waitpid(pid, status, WNOHANG) == pid) return true;
        g_usleep(us);
    }
    return false;
}

/* Whether somebody can still print: what it started and left behind. */
static bool is_held(struct program *p)
{
    char byte;
    take_prints(p);
    return read(p->prints, &byte, 1) < 0 && (errno == EAGAIN || errno == EWOULDBLOCK);
}

/* Ends whoever has the mark in its environment. */
static void end_left(const struct program *p)
{
    char *wanted = g_strconcat(MARK "=", p->mark, NULL);
    GDir *all = g_dir_open("/proc", 0, NULL);
    for (const char *name; all && (name = g_dir_read_name(all));) {
        char *path = g_strdup_printf("/proc/%s/environ", name), *text = NULL;
        gsize size = 0;
        pid_t pid = (pid_t)atoi(name);
        if (pid > 1 && pid != getpid() && g_file_get_contents(path, &text, &size, NULL))
            for (gsize at = 0; at < size; at += strlen(text + at) + 1)
                if (!strcmp(text + at, wanted)) kill(pid, SIGKILL);
        g_free(text);
        g_free(path);
    }
    if (all) g_dir_close(all);
    g_free(wanted);
}

/* Whether it had ended by itself; *status is then how. */
static bool end_now(struct program *p, int *status)
{
    bool own = ends_within(p->pid, END_US, status);
    if (!own) {
        kill(p->pid, SIGTERM);
        if (!ends_within(p->pid, END_US, status)) {
            kill(p->pid, SIGKILL);
            waitpid(p->pid, status, 0);
        }
    }
    kill(-p->pid, SIGKILL); /* its group: what it started */
    p->pid = 0;
    if (is_held(p)) end_left(p);
    take_prints(p);
    return own;
}

void program_end(struct program *p)
{
    int status = 0;
    if (!p) return;
    if (p->pid) {
        shutdown(p->socket, SHUT_RDWR);
        end_now(p, &status);
    }
    if (p->line->len) show_line(p);
    close(p->socket);
    close(p->prints);
    g_string_free(p->line, TRUE);
    g_free(p->mark);
    g_free(p);
}

/* ---- give and take ---- */

void program_patience(struct program *p)
{
    p->deadline_us = g_get_monotonic_time() + p->patience_s * G_USEC_PER_SEC;
}

/* It ended, or sends nothing any more. */
static char *what_became(struct program *p)
{
    int status = 0;
    if (!end_now(p, &status)) return g_strdup("the firmware program closed its end, and lived on");
    if (WIFSIGNALED(status))
        return g_strdup_printf("the firmware program died: %s", strsignal(WTERMSIG(status)));
    return g_strdup_printf("the firmware program ended with exit code %d", WEXITSTATUS(status));
}

/* Until the socket is ready; false: its time is over. */
static bool wait_for(struct program *p, short what, char **failure)
{
    for (;;) {
        gint64 left = (p->deadline_us - g_get_monotonic_time()) / 1000;
        struct pollfd of[2] = {{p->socket, what, 0}, {p->prints, POLLIN, 0}};
        int n = left > 0 ? poll(of, 2, (int)left) : 0;
        if (n < 0 && errno == EINTR) continue;
        if (of[1].revents & POLLIN) take_prints(p);
        if (of[1].revents & POLLHUP && !(of[0].revents & (what | POLLHUP | POLLERR)))
            g_usleep(1000); /* it closed what it prints to */
        if (of[0].revents & (what | POLLHUP | POLLERR)) return true;
        if (n > 0) continue;
        int status;
        kill(p->pid, SIGKILL);
        end_now(p, &status);
        *failure =
            g_strdup_printf("the firmware program hangs: no sleep within %d s", p->patience_s);
        return false;
    }
}

bool program_give(struct program *p, const char *bytes, size_t count, char **failure)
{
    while (count) {
        ssize_t n = send(p->socket, bytes, count, MSG_NOSIGNAL | MSG_DONTWAIT);
        if (n > 0) {
            bytes += n;
            count -= (size_t)n;
        } else if (n < 0 && (errno == EAGAIN || errno == EWOULDBLOCK)) {
            if (!wait_for(p, POLLOUT, failure)) return false;
        } else if (n == 0 || errno != EINTR) {
            *failure = what_became(p);
            return false;
        }
    }
    return true;
}

size_t program_take(struct program *p, char *bytes, size_t most, char **failure)
{
    for (;;) {
        /* one that does something again and again, and never sleeps, is late as well */
        if (g_get_monotonic_time() >= p->deadline_us && !wait_for(p, POLLIN, failure)) return 0;
        ssize_t n = recv(p->socket, bytes, most, 0); /* at most for the time of look_around */
        if (n > 0) return (size_t)n;
        if (n < 0 && errno == EINTR) continue;
        if (n < 0 && (errno == EAGAIN || errno == EWOULDBLOCK)) {
            if (!wait_for(p, POLLIN, failure)) return 0;
            continue;
        }
        *failure = what_became(p);
        return 0;
    }
}
