#!/bin/sh
# Started by root in the browser's place: gives it its profile and starts it as a user without rights, in its own sandbox.
for argument in "$@"; do
  case "$argument" in
    --user-data-dir=*) chown -R nobody "${argument#--user-data-dir=}" ;;
  esac
done
exec setpriv --reuid=nobody --regid=nogroup --clear-groups --no-new-privs "$SHRIKE_BROWSER" "$@"
