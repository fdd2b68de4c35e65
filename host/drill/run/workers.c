/* Does jobs in several processes and hands over each result as JSON.
 * Each process has a pipe; the caller learns whether it died, hung or was interrupted.
 * It knows nothing about drills. */
#include "drill/run/workers.h"

#include <errno.h>
#include <poll.h>
#include <sched.h>
#include <signal.h>
#include <stdio.h>
#include <stdint.h>
#include <stdlib.h>
#include <string.h>
#include <sys/mman.h>
#include <sys/prctl.h>
#include <sys/wait.h>
#include <unistd.h>

#define PROCESSES 64u

static volatile sig_atomic_t interrupted;

static void on_signal(int number)
{
    (void)number;
    interrupted = 1;
}

/* A process, and the line of it that is coming in. */
struct process {
    pid_t pid;
    int from;
    GString *line;
    unsigned job; /* that it does; UINT32_MAX: none */
};

struct pool {
    const struct workers *w;
    unsigned *next; /* the job that is done next, shared by all processes */
    struct process processes[PROCESSES];
    unsigned n;
    unsigned started;
    bool stopped;
};

/* ---- in the processes ---- */

static void put(int to, const char *text)
{
    for (size_t left = strlen(text); left;) {
        ssize_t n = write(to, text, left);
        if (n < 0 && errno == EINTR) continue;
        if (n <= 0) _exit(1);
        text += n;
        left -= (size_t)n;
    }
}

/* Each job is reported before and after. */
static void do_jobs(const struct pool *pool, int to)
{
    char begin[16];
    for (;;) {
        unsigned job = __atomic_fetch_add(pool->next, 1, __ATOMIC_RELAXED);
        if (job >= pool->w->jobs) _exit(0);
        g_snprintf(begin, sizeof begin, "%u\n", job);
        put(to, begin);
        json_t *result = pool->w->work(pool->w->user, job);
        char *text = json_dumps(result, JSON_COMPACT);
        put(to, text);
        put(to, "\n");
        free(text);
        json_decref(result);
    }
}

/* A firmware program and what it speaks to take turns: on one processor they do it fastest. */
static void stay_on(unsigned processor)
{
    cpu_set_t set;
    CPU_ZERO(&set);
    CPU_SET(processor, &set);
    sched_setaffinity(0, sizeof set, &set);
}

static bool start(struct pool *pool, struct process *p)
{
    int ends[2];
    *p = (struct process){.pid = -1, .from = -1, .job = UINT32_MAX};
    fflush(NULL);
    if (pipe(ends) != 0) return false;
    p->pid = fork();
    if (p->pid == 0) {
        prctl(PR_SET_PDEATHSIG, SIGKILL);
        stay_on(pool->n > 1 ? pool->started % (unsigned)g_get_num_processors()
                            : (unsigned)MAX(sched_getcpu(), 0));
        signal(SIGINT, SIG_IGN);
        signal(SIGTERM, SIG_DFL);
        close(ends[0]);
        do_jobs(pool, ends[1]);
    }
    close(ends[1]);
    p->from = ends[0];
    p->line = g_string_new(NULL);
    pool->started++;
    return p->pid > 0;
}

/* ---- here ---- */

static void told(struct pool *pool, struct process *p, const char *line)
{
    if (p->job == UINT32_MAX) {
        p->job = (unsigned)strtoul(line, NULL, 10);
        return;
    }
    json_t *result = json_loads(line, 0, NULL);
    if (!pool->w->done(pool->w->user, p->job, result)) pool->stopped = true;
    if (result) json_decref(result);
    p->job = UINT32_MAX;
}

static void end(struct process *p)
{
    if (p->from < 0) return;
    close(p->from);
    p->from = -1;
    if (p->pid > 0) waitpid(p->pid, NULL, 0);
    g_string_free(p->line, TRUE);
}

/* What came, line by line; a process that ends in the middle of a job is started anew. */
static void hear(struct pool *pool, struct process *p)
{
    char bytes[65536];
    ssize_t n = read(p->from, bytes, sizeof bytes);
    if (n < 0 && errno == EINTR) return;
    if (n <= 0) {
        unsigned job = p->job;
        end(p);
        if (job == UINT32_MAX) return;
        if (!pool->w->done(pool->w->user, job, NULL)) pool->stopped = true;
        start(pool, p);
        return;
    }
    g_string_append_len(p->line, bytes, n);
    for (char *nl; !pool->stopped && (nl = strchr(p->line->str, '\n'));) {
        *nl = 0;
        char *line = g_strdup(p->line->str);
        g_string_erase(p->line, 0, nl - p->line->str + 1);
        told(pool, p, line);
        g_free(line);
    }
}

static bool wait_for_some(struct pool *pool)
{
    struct pollfd in[PROCESSES];
    unsigned open = 0;
    for (unsigned i = 0; i < pool->n; i++) {
        in[i] = (struct pollfd){.fd = pool->processes[i].from, .events = POLLIN};
        open += in[i].fd >= 0;
    }
    if (!open) return false;
    if (poll(in, pool->n, -1) < 0) return errno == EINTR;
    for (unsigned i = 0; i < pool->n && !pool->stopped; i++)
        if (in[i].revents) hear(pool, &pool->processes[i]);
    return true;
}

bool workers_run(const struct workers *w)
{
    struct pool pool = {.w = w, .n = MIN(MIN(w->processes, w->jobs), PROCESSES)};
    struct sigaction on = {.sa_handler = on_signal}, was_int, was_term;
    pool.next =
        mmap(NULL, sizeof *pool.next, PROT_READ | PROT_WRITE, MAP_SHARED | MAP_ANONYMOUS, -1, 0);
    if (pool.next == MAP_FAILED) return false;
    interrupted = 0;
    sigaction(SIGINT, &on, &was_int);
    sigaction(SIGTERM, &on, &was_term);
    for (unsigned i = 0; i < pool.n; i++) start(&pool, &pool.processes[i]);
    while (!interrupted && !pool.stopped && wait_for_some(&pool)) {}
    for (unsigned i = 0; i < pool.n; i++) {
        if (pool.processes[i].from < 0) continue;
        kill(pool.processes[i].pid, SIGKILL);
        end(&pool.processes[i]);
    }
    sigaction(SIGINT, &was_int, NULL);
    sigaction(SIGTERM, &was_term, NULL);
    munmap(pool.next, sizeof *pool.next);
    return !interrupted && !pool.stopped;
}
