/* Written by Logarithm around functions of an array of numbers. Its one argument says which of them is timed. */
#define _POSIX_C_SOURCE 200809L
#define main main_of_the_file
#include {file}
#undef main
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

enum { COPIES_MOST = 1 << 25 }; /* bytes */

struct instance {
    char *values;
    size_t count;
};
static struct instance *loaded;
static size_t many_loaded, next_one, among;
static double answer;

static int64_t now(void) {
    struct timespec at;
    clock_gettime(CLOCK_MONOTONIC, &at);
    return (int64_t)at.tv_sec * 1000000000 + at.tv_nsec;
}

/* What is known of each function: the size of a number, whether it changes its numbers, how it is called. */
struct known {
    const char *name;
    size_t wide;
    int changes, returns;
    void (*put)(char *, size_t, double);
    double (*get)(const char *, size_t);
    void (*call)(char *, size_t);
};
{functions}
static const struct known every[] = {table};
static const struct known *own;

static void clear(void) {
    while (many_loaded) free(loaded[--many_loaded].values);
    next_one = 0;
}

static int load_one(FILE *file) {
    size_t room = 64, count = 0;
    double value;
    char *values = (char *)malloc(room * own->wide);
    while (values && fscanf(file, "%lf%*[, \t\r\n]", &value) == 1) {
        if (count == room) values = (char *)realloc(values, (room *= 2) * own->wide);
        if (values) own->put(values, count++, value);
    }
    loaded = (struct instance *)realloc(loaded, (many_loaded + 1) * sizeof *loaded);
    if (!values || !loaded) return 0;
    loaded[many_loaded].values = values;
    loaded[many_loaded++].count = count;
    return 1;
}

/* A file holds many instances; the sign 0x1E stands before each. */
static int load(const char *path) {
    FILE *file = fopen(path, "r");
    int fine = file != NULL;
    while (fine && getc(file) == 0x1E) fine = load_one(file);
    if (file) fclose(file);
    return fine;
}

static const struct instance *following(void) {
    const struct instance *found = &loaded[next_one];
    if (++next_one == among) next_one = 0;
    return found;
}

/* Calls that leave their numbers as they are. */
static int64_t run(long long calls) {
    int64_t start = now();
    for (long long i = 0; i < calls; i++) {
        const struct instance *one = following();
        own->call(one->values, one->count);
        __asm__ volatile("" : : : "memory");
    }
    return now() - start;
}

/* Calls that change them: each gets a copy, made before the clock is read. The last one is kept as the answer. */
static int64_t run_on_copies(long long calls, char **last, size_t *count) {
    int64_t took = 0;
    size_t most = 0;
    for (size_t at = 0; at < many_loaded; at++)
        if (loaded[at].count > most) most = loaded[at].count;
    long long each = COPIES_MOST / (long long)(most * own->wide + 1);
    if (each < 1) each = 1;
    if (each > calls) each = calls;
    struct instance *copies = (struct instance *)malloc((size_t)each * sizeof *copies);
    for (long long done = 0; done < calls; done += each) {
        long long many = calls - done < each ? calls - done : each;
        for (long long i = 0; i < many; i++) {
            const struct instance *one = following();
            copies[i].count = one->count;
            copies[i].values = (char *)malloc(one->count * own->wide + 1);
            memcpy(copies[i].values, one->values, one->count * own->wide);
        }
        int64_t start = now();
        for (long long i = 0; i < many; i++) {
            own->call(copies[i].values, copies[i].count);
            __asm__ volatile("" : : : "memory");
        }
        took += now() - start;
        free(*last);
        *last = copies[many - 1].values;
        *count = copies[many - 1].count;
        for (long long i = 0; i + 1 < many; i++) free(copies[i].values);
    }
    free(copies);
    return took;
}

int main(int many, char **arguments) {
    static char line[1 << 16];
    for (size_t at = 0; at < sizeof every / sizeof *every; at++)
        if (many > 1 && !strcmp(every[at].name, arguments[1])) own = &every[at];
    if (!own) return 2;
    puts("logarithm-worker 3 C");
    fflush(stdout);
    while (fgets(line, sizeof line, stdin)) {
        line[strcspn(line, "\r\n")] = 0;
        if (!strcmp(line, "clear")) {
            clear();
            puts("ok");
        } else if (!strncmp(line, "load ", 5)) {
            puts(load(line + 5) ? "ok" : "error cannot read the instance");
        } else if (!strncmp(line, "run ", 4) && many_loaded) {
            char *rest;
            long long calls = strtoll(line + 4, &rest, 10);
            among = strtoull(rest, NULL, 10);
            if (next_one >= among) next_one = 0;
            char *last = NULL;
            size_t count = 0;
            int64_t took = own->changes ? run_on_copies(calls, &last, &count) : run(calls);
            printf("done %lld ", (long long)took);
            if (own->returns) printf("%.17g", answer);
            else putchar('[');
            for (size_t at = 0; !own->returns && at < count; at++) printf(at ? ", %.17g" : "%.17g", own->get(last, at));
            puts(own->returns ? "" : "]");
            free(last);
        } else if (!strcmp(line, "end")) {
            break;
        } else {
            printf("error unknown request: %.60s\n", line);
        }
        fflush(stdout);
    }
    return 0;
}
