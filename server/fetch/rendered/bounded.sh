#!/bin/sh
# Started in the browser's place: bounds the memory of each of its processes by the system (RLIMIT_DATA, in KiB), and where root
# starts it, gives it its profile and a user without rights. Its own sandbox comes on top.
ulimit -d "$SHRIKE_BROWSER_MEMORY_KIB"
if [ "$(id -u)" -ne 0 ]; then exec "$SHRIKE_BROWSER" "$@"; fi
for argument in "$@"; do
  case "$argument" in
    --user-data-dir=*) chown -R nobody "${argument#--user-data-dir=}" ;;
  esac
done
exec setpriv --reuid=nobody --regid=nogroup --clear-groups --no-new-privs "$SHRIKE_BROWSER" "$@"
