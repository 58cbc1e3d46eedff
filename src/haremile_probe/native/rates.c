/* Rates of a machine: rounds of fixed work, repeated until enough time has passed.
 *
 * rates PHASE PINNED LEAST_SECONDS BYTES [FOLDER]
 *
 * Prints one line: PHASE PINNED AMOUNT SECONDS NOTE. PINNED is 1 where its threads are bound to one
 * processor. BYTES is the size of the memory or of the file that is worked on. The file has no name:
 * it is gone with the program, however that ends. Exit code 0 done, 1 with a line on stderr.
 */
#define _GNU_SOURCE
#include <errno.h>
#include <fcntl.h>
#include <pthread.h>
#include <sched.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <sys/statvfs.h>
#include <time.h>
#include <unistd.h>

#define BLOCK (1u << 20)
#define PAGE 4096u
#define STEPS 20000000u
#define TURNS 20000u
#define MOST_THREADS 1024

static void fail(const char *what)
{
    fprintf(stderr, "%s: %s\n", what, strerror(errno));
    exit(1);
}

static void refuse(const char *why)
{
    fprintf(stderr, "%s\n", why);
    exit(1);
}

static double now(void)
{
    struct timespec at;
    if (clock_gettime(CLOCK_MONOTONIC, &at))
        fail("the clock");
    return (double)at.tv_sec + 1e-9 * (double)at.tv_nsec;
}

static volatile uint64_t kept; /* what is calculated goes here, so that nothing is left out */
static volatile double kept_fraction;

/* Whole numbers: four chains of multiplications, shifts and exclusive ors. */
static void whole_numbers(void)
{
    uint64_t a = 1, b = 2, c = 3, d = 4;
    for (uint32_t i = 0; i < STEPS; i++) {
        a = (a ^ (a >> 27)) * 0x9E3779B97F4A7C15u + i;
        b = (b ^ (b >> 31)) * 0xBF58476D1CE4E5B9u + i;
        c = (c ^ (c >> 29)) * 0x94D049BB133111EBu + i;
        d = (d ^ (d >> 33)) * 0xD6E8FEB86659FD93u + i;
    }
    kept = a ^ b ^ c ^ d;
}

/* Fractions: four chains of multiplications, additions and, at times, divisions. */
static void fractions(void)
{
    double a = 0.31, b = 0.37, c = 0.41, d = 0.43;
    for (uint32_t i = 0; i < STEPS; i++) {
        a = 3.71 * a * (1.0 - a);
        b = 3.73 * b * (1.0 - b);
        c = 3.79 * c * (1.0 - c);
        d = 3.83 * d * (1.0 - d);
        if ((i & 15u) == 0)
            a = a / (0.5 + b);
        if (a > 0.999 || a < 0.001)
            a = 0.31;
    }
    kept_fraction = a + b + c + d;
}

struct share {
    void (*work)(void);
    double until, amount, ended;
};

static void *worked(void *given)
{
    struct share *mine = given;
    do {
        mine->work();
        mine->amount += STEPS;
        mine->ended = now();
    } while (mine->ended < mine->until);
    return NULL;
}

/* The same work on each of `threads` threads, which each go on until enough time has passed. */
static double calculate(void (*work)(void), int threads, double least, double *seconds)
{
    static pthread_t known[MOST_THREADS];
    static struct share shares[MOST_THREADS];
    double begun = now(), rate = 0.0;
    for (int i = 0; i < threads; i++) {
        shares[i] = (struct share){work, begun + least, 0.0, 0.0};
        if ((errno = pthread_create(&known[i], NULL, worked, &shares[i])))
            fail("a thread");
    }
    *seconds = 0.0;
    for (int i = 0; i < threads; i++) {
        pthread_join(known[i], NULL);
        double took = shares[i].ended - begun;
        rate += shares[i].amount / took;
        *seconds = took > *seconds ? took : *seconds;
    }
    return rate * *seconds;
}

static pthread_mutex_t lock = PTHREAD_MUTEX_INITIALIZER;
static pthread_cond_t turned = PTHREAD_COND_INITIALIZER;
static int turn, is_over;

static void take_turn(int mine)
{
    pthread_mutex_lock(&lock);
    while (turn != mine && !is_over)
        pthread_cond_wait(&turned, &lock);
    turn = !mine;
    pthread_cond_signal(&turned);
    pthread_mutex_unlock(&lock);
}

static void *answering(void *nothing)
{
    (void)nothing;
    while (!is_over)
        take_turn(1);
    return NULL;
}

/* Two threads that hand one thing to and fro; each hand-over counts. */
static double hand_over(double least, double *seconds)
{
    pthread_t other;
    double amount = 0.0, begun = now();
    if ((errno = pthread_create(&other, NULL, answering, NULL)))
        fail("a thread");
    do {
        for (uint32_t i = 0; i < TURNS; i++)
            take_turn(0);
        amount += 2.0 * TURNS;
        *seconds = now() - begun;
    } while (*seconds < least);
    pthread_mutex_lock(&lock);
    is_over = 1;
    pthread_cond_broadcast(&turned);
    pthread_mutex_unlock(&lock);
    pthread_join(other, NULL);
    return amount;
}

static uint64_t sum_of(const uint64_t *from, size_t words)
{
    uint64_t a = 0, b = 0, c = 0, d = 0;
    for (size_t i = 0; i + 3 < words; i += 4) {
        a += from[i];
        b += from[i + 1];
        c += from[i + 2];
        d += from[i + 3];
    }
    return a + b + c + d;
}

/* Memory read, written or copied, again and again from end to end. */
static double memory(char what, size_t bytes, double least, double *seconds)
{
    char *space = malloc(bytes);
    double amount = 0.0;
    if (!space)
        fail("the memory");
    memset(space, 1, bytes); /* all of it is there before the clock runs */
    double begun = now();
    do {
        if (what == 'r')
            kept = sum_of((const uint64_t *)space, bytes / 8);
        else if (what == 'w')
            memset(space, (int)kept + 1, bytes);
        else
            memcpy(space, space + bytes / 2, bytes / 2);
        __asm__ volatile("" : : "r"(space) : "memory");
        amount += what == 'c' ? (double)(bytes / 2) : (double)bytes;
        *seconds = now() - begun;
    } while (*seconds < least);
    free(space);
    return amount;
}

static const char *note = "";

/* A file without a name in the folder, direct where the file system can. */
static int open_file(const char *folder, size_t bytes)
{
    struct statvfs space;
    char path[4096];
    if (statvfs(folder, &space))
        fail(folder);
    if ((double)space.f_bavail * (double)space.f_frsize < 2.0 * (double)bytes)
        refuse("too little space: twice the size of the file has to be free");
    if (snprintf(path, sizeof path, "%s/haremile-rates-XXXXXX", folder) >= (int)sizeof path)
        refuse("the folder's name is too long");
    int file = mkstemp(path);
    if (file < 0)
        fail(folder);
    unlink(path);
    int flags = fcntl(file, F_GETFL);
    note = fcntl(file, F_SETFL, flags | O_DIRECT) ? "through-the-cache" : "direct";
    return file;
}

static void *aligned(size_t bytes)
{
    void *space;
    if ((errno = posix_memalign(&space, PAGE, bytes)))
        fail("the memory");
    for (size_t i = 0; i < bytes; i++)
        ((unsigned char *)space)[i] = (unsigned char)((i * 2654435761u) >> 13);
    return space;
}

static void put(int file, const void *from, size_t bytes, off_t at)
{
    if (pwrite(file, from, bytes, at) != (ssize_t)bytes)
        fail("writing the file");
}

static void get(int file, void *to, size_t bytes, off_t at)
{
    if (pread(file, to, bytes, at) != (ssize_t)bytes)
        fail("reading the file");
}

static double storage(const char *phase, const char *folder, size_t bytes, double least, double *seconds)
{
    int file = open_file(folder, bytes);
    char *space = aligned(BLOCK);
    size_t blocks = bytes / BLOCK, pages = bytes / PAGE;
    uint64_t drawn = 88172645463325252u;
    double amount = 0.0, begun = now();
    if (!strcmp(phase, "disk_write")) {
        do {
            for (size_t i = 0; i < blocks; i++)
                put(file, space, BLOCK, (off_t)(i * BLOCK));
            if (fdatasync(file))
                fail("the storage");
            amount += (double)(blocks * BLOCK);
            *seconds = now() - begun;
        } while (*seconds < least);
        return amount;
    }
    if (!strcmp(phase, "disk_sync")) {
        do {
            for (uint32_t i = 0; i < 16; i++) {
                put(file, space, PAGE, (off_t)((size_t)amount % pages * PAGE));
                if (fdatasync(file))
                    fail("the storage");
                amount += 1.0;
            }
            *seconds = now() - begun;
        } while (*seconds < least);
        return amount;
    }
    for (size_t i = 0; i < blocks; i++)
        put(file, space, BLOCK, (off_t)(i * BLOCK));
    if (fsync(file))
        fail("the storage");
    posix_fadvise(file, 0, 0, POSIX_FADV_DONTNEED);
    begun = now();
    do {
        if (!strcmp(phase, "disk_seq")) {
            for (size_t i = 0; i < blocks; i++)
                get(file, space, BLOCK, (off_t)(i * BLOCK));
            amount += (double)(blocks * BLOCK);
        } else {
            for (uint32_t i = 0; i < 64; i++) {
                drawn ^= drawn << 13;
                drawn ^= drawn >> 7;
                drawn ^= drawn << 17;
                get(file, space, PAGE, (off_t)(drawn % pages * PAGE));
            }
            amount += 64.0;
        }
        *seconds = now() - begun;
    } while (*seconds < least);
    return amount;
}

/* Bind everything from here on to the last processor that we may use. */
static void pin(void)
{
    cpu_set_t able, one;
    if (sched_getaffinity(0, sizeof able, &able))
        fail("the processors");
    for (int i = CPU_SETSIZE - 1; i >= 0; i--)
        if (CPU_ISSET(i, &able)) {
            CPU_ZERO(&one);
            CPU_SET(i, &one);
            if (sched_setaffinity(0, sizeof one, &one))
                fail("the processors");
            return;
        }
}

static int processors(void)
{
    cpu_set_t able;
    if (sched_getaffinity(0, sizeof able, &able))
        fail("the processors");
    int number = CPU_COUNT(&able);
    return number > MOST_THREADS ? MOST_THREADS : number;
}

int main(int count, char **words)
{
    if (count < 5)
        refuse("usage: rates PHASE PINNED LEAST_SECONDS BYTES [FOLDER]");
    const char *phase = words[1];
    int is_pinned = words[2][0] == '1';
    double least = atof(words[3]), seconds = 0.0, amount = 0.0;
    size_t bytes = (size_t)strtoull(words[4], NULL, 10) / BLOCK * BLOCK;
    if (least <= 0.0 || least > 600.0 || bytes == 0)
        refuse("seconds and bytes have to be positive");
    if (is_pinned)
        pin();
    if (!strcmp(phase, "cpu_one"))
        amount = calculate(whole_numbers, 1, least, &seconds);
    else if (!strcmp(phase, "cpu_all"))
        amount = calculate(whole_numbers, processors(), least, &seconds);
    else if (!strcmp(phase, "float_one"))
        amount = calculate(fractions, 1, least, &seconds);
    else if (!strcmp(phase, "float_all"))
        amount = calculate(fractions, processors(), least, &seconds);
    else if (!strcmp(phase, "handover"))
        amount = hand_over(least, &seconds);
    else if (!strcmp(phase, "mem_read"))
        amount = memory('r', bytes, least, &seconds);
    else if (!strcmp(phase, "mem_write"))
        amount = memory('w', bytes, least, &seconds);
    else if (!strcmp(phase, "mem_copy"))
        amount = memory('c', bytes, least, &seconds);
    else if (!strncmp(phase, "disk_", 5) && count == 6)
        amount = storage(phase, words[5], bytes, least, &seconds);
    else
        refuse("no such phase");
    printf("%s %d %.0f %.9f %s\n", phase, is_pinned, amount, seconds, *note ? note : "-");
    return 0;
}
