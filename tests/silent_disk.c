/* Preloaded into a server: calls that reach below $SILENT_BELOW take $SILENT_S seconds while $SILENT_WHEN exists. */
#define _GNU_SOURCE
#include <dirent.h>
#include <dlfcn.h>
#include <fcntl.h>
#include <stdarg.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <sys/syscall.h>
#include <unistd.h>

static void wait_for(const char *path) {
  const char *below = getenv("SILENT_BELOW"), *when = getenv("SILENT_WHEN");
  if (path && below && when && !strncmp(path, below, strlen(below)) &&
      !syscall(SYS_faccessat, AT_FDCWD, when, F_OK))
    sleep(atoi(getenv("SILENT_S")));
}

#define REAL(name) ((__typeof__(&name))dlsym(RTLD_NEXT, #name))

int stat(const char *path, struct stat *buffer) { wait_for(path); return REAL(stat)(path, buffer); }
int lstat(const char *path, struct stat *buffer) { wait_for(path); return REAL(lstat)(path, buffer); }
int stat64(const char *path, struct stat64 *buffer) { wait_for(path); return REAL(stat64)(path, buffer); }
int lstat64(const char *path, struct stat64 *buffer) { wait_for(path); return REAL(lstat64)(path, buffer); }
int fstatat(int at, const char *path, struct stat *buffer, int flags) { wait_for(path); return REAL(fstatat)(at, path, buffer, flags); }
int fstatat64(int at, const char *path, struct stat64 *buffer, int flags) { wait_for(path); return REAL(fstatat64)(at, path, buffer, flags); }
DIR *opendir(const char *path) { wait_for(path); return REAL(opendir)(path); }

#define OPENS(name) \
  int name(const char *path, int flags, ...) { \
    va_list more; va_start(more, flags); mode_t mode = va_arg(more, mode_t); va_end(more); \
    wait_for(path); return REAL(name)(path, flags, mode); }
#define OPENS_AT(name) \
  int name(int at, const char *path, int flags, ...) { \
    va_list more; va_start(more, flags); mode_t mode = va_arg(more, mode_t); va_end(more); \
    wait_for(path); return REAL(name)(at, path, flags, mode); }
OPENS(open)
OPENS(open64)
OPENS_AT(openat)
OPENS_AT(openat64)
