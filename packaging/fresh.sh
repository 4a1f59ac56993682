#!/usr/bin/env bash
# Does what the README says on a bare Debian 12, each command in a root of its own, and
# says what failed. The roots are made with debootstrap from the mirror of this machine's
# own apt sources and lie in build/fresh; what a root has installed is never reused.
set -uo pipefail
cd "$(dirname "$0")/.."
[ "$(id -u)" = 0 ] || { echo "./dev fresh makes roots and mounts: run it as root" >&2; exit 1; }
roots=$PWD/build/fresh
wanted=("${@:-demo test}")
[ $# -eq 0 ] && wanted=(demo test)

mirror() {
  cat /etc/apt/sources.list /etc/apt/sources.list.d/* 2>/dev/null |
    sed -n 's/^URIs: *\([^ ]*\).*/\1/p; s/^deb \(\[[^]]*\] \)\{0,1\}\([^ ]*\) .*/\2/p' | grep -v security | head -n 1
}

make_root() { # root
  debootstrap --variant=minbase --include=ca-certificates bookworm "$1" "$(mirror)" >"$1.debootstrap.log" 2>&1 ||
    { echo "debootstrap failed; the end of its log:" >&2; tail -n 5 "$1.debootstrap.log" >&2; return 1; }
  # How this machine reaches its registries; nothing else of it.
  cp /etc/resolv.conf "$1/etc/resolv.conf"
  cp /etc/hosts "$1/etc/hosts"
  cp -r /etc/apt/apt.conf.d/. "$1/etc/apt/apt.conf.d/" 2>/dev/null
  rm -f "$1/etc/apt/sources.list" && cp -r /etc/apt/sources.list.d/. "$1/etc/apt/sources.list.d/" 2>/dev/null
  [ -e /etc/apt/sources.list ] && cp /etc/apt/sources.list "$1/etc/apt/sources.list"
  cp /etc/ssl/certs/ca-certificates.crt "$1/etc/ssl/certs/ca-certificates.crt"
  [ -d /usr/local/share/ca-certificates ] && cp -r /usr/local/share/ca-certificates/. "$1/usr/local/share/ca-certificates/"
  npm config get registry >/dev/null 2>&1 && {
    cp ~/.npmrc "$1/root/.npmrc" 2>/dev/null
    echo "registry=$(npm config get registry 2>/dev/null)" >>"$1/root/.npmrc"
  }
  # A service that is installed there is not started: it would run on this machine.
  printf '#!/bin/sh\nexit 101\n' >"$1/usr/sbin/policy-rc.d" && chmod 755 "$1/usr/sbin/policy-rc.d"
  for m in proc sys dev dev/pts; do mount --bind "/$m" "$1/$m"; done
  git archive HEAD --prefix=yokai/ | tar -x -C "$1/root"
}

end_root() { # root
  # Lazily: something in the root may be ending still, and a mount that stays would be in the way of its removal.
  for m in dev/pts dev sys proc; do umount "$1/$m" 2>/dev/null || umount -l "$1/$m" 2>/dev/null; done
}

# The command as the README has it, with nothing of this machine's environment but its way out.
inside() { # root command
  chroot "$1" /usr/bin/env -i HOME=/root PATH=/usr/sbin:/usr/bin:/sbin:/bin LANG=C.UTF-8 NODE_EXTRA_CA_CERTS=/etc/ssl/certs/ca-certificates.crt \
    bash -c "cd /root/yokai && $2"
}

# The demo is good when the window is up and stays so.
demo_stands() { # root
  inside "$1" "./dev demo" >"$1.log" 2>&1 &
  local running=$! waited=0
  while kill -0 $running 2>/dev/null && [ $waited -lt 3600 ]; do
    sleep 2
    waited=$((waited + 2))
    local pid
    pid=$(pgrep -f '^build/demo/src/window/yokai' | head -n 1)
    if [ -n "$pid" ] && [ "$(readlink -f "/proc/$pid/root")" = "$(readlink -f "$1")" ]; then
      sleep 10
      if kill -0 "$pid" 2>/dev/null; then
        echo "the window stood after $waited s"
        kill "$pid"
        wait $running 2>/dev/null
        return 0
      fi
      break
    fi
  done
  return 1
}

failed=0
for what in "${wanted[@]}"; do
  root=$roots/$what
  end_root "$root"
  rm -rf --one-file-system "$root"
  mkdir -p "$root"
  began=$SECONDS
  make_root "$root" || { failed=1; continue; }
  trap 'end_root "$root"' EXIT
  if [ "$what" = demo ]; then demo_stands "$root"; else inside "$root" "./dev $what" >"$root.log" 2>&1; fi
  code=$?
  end_root "$root"
  if [ $code = 0 ]; then
    echo "./dev $what: good on a bare Debian 12, $((SECONDS - began)) s with everything it installs"
    rm -rf --one-file-system "$root"
  else
    echo "./dev $what: FAILED on a bare Debian 12; the end of $root.log:" >&2
    tail -n 25 "$root.log" >&2
    failed=1
  fi
done
exit $failed
