#!/bin/sh
# Gathers the raw texts for about, boot, idle and footprint on a machine without Python, into one
# file that the server reads as the probe's own captures. POSIX sh; runs under busybox.
#
#   sh haremile-gather.sh [-m MACHINE] [-s SYSTEM] [-w WINDOW_S] [-l LIMIT_S] [NAME ...] >FILE
#
# NAME: about boot idle footprint (all four if none is named). Progress goes to stderr.
# Exit codes: 0 done, 2 bad input.
set -u
LC_ALL=C
export LC_ALL
version=0.1.0
machine=$(cat /proc/sys/kernel/hostname)
system=
window=60
limit=300

usage() { sed -n '5,8s/^# \{0,1\}//p' "$0" >&2; exit 2; }
while getopts m:s:w:l: option; do
  case $option in
    m) machine=$OPTARG ;;
    s) system=$OPTARG ;;
    w) window=$OPTARG ;;
    l) limit=$OPTARG ;;
    *) usage ;;
  esac
done
shift $((OPTIND - 1))
case "$window$limit" in *[!0-9]*) echo 'haremile-gather: seconds are whole numbers' >&2; exit 2 ;; esac
[ $# -gt 0 ] || set -- about boot idle footprint
for verb in "$@"; do
  case $verb in about | boot | idle | footprint) ;; *)
    echo "haremile-gather: unknown name: $verb; expected about, boot, idle or footprint" >&2
    exit 2 ;;
  esac
done

say() { echo "gather: $*" >&2; }
now() { read -r up rest </proc/uptime; echo "$up"; }
open() { echo "HM1 $1 $(now)"; }
close() { echo "HM1 . $(now)"; }
lines() { sed 's/^/|/'; }
fault() { open fault; echo "$1 $2" | lines; close; }

keep() { # NAME FILE ...: the first file that is there
  name=$1
  shift
  for file in "$@"; do
    if [ -r "$file" ]; then
      open "$name"
      lines <"$file" 2>/dev/null
      close
      return
    fi
    [ ! -e "$file" ] || { fault denied "$name: $file"; return; }
  done
  fault absent "$name: $*"
}

values() { # NAME FILE ...: small files as PATH: VALUE
  open "$1"
  shift
  for file in "$@"; do
    [ -f "$file" ] && value=$(tr '\n\0' '  ' <"$file" 2>/dev/null) && printf '%s: %s\n' "$file" "$value" | lines
  done
  close
}

ask() { # NAME PROGRAM ARGUMENT ...: what a program prints
  name=$1
  shift
  command -v "$1" >/dev/null 2>&1 || { fault absent "$name: $1"; return; }
  if text=$("$@" 2>/dev/null); then
    open "$name"
    printf '%s\n' "$text" | lines # a text's backslashes are its own
    close
  else
    fault unreadable "$name: $* ended with $?"
  fi
}

processes() {
  open processes
  for stat in /proc/[0-9]*/stat; do
    { read -r line <"$stat"; } 2>/dev/null && echo "|$line"
  done
  close
}

uuid() { # version 7: milliseconds, then noise
  stamp=$(printf '%012x' "$(($(date +%s) * 1000))")
  noise=$(tr -d - </proc/sys/kernel/random/uuid)
  a=$(echo "$stamp" | cut -c1-8) b=$(echo "$stamp" | cut -c9-12)
  c=$(echo "$noise" | cut -c1-3) d=$(echo "$noise" | cut -c4-6) e=$(echo "$noise" | cut -c7-18)
  echo "$a-$b-7$c-8$d-$e"
}

head_of() {
  open gather
  {
    echo "id=$(uuid)"
    echo "made_at=$(date -u +%Y-%m-%dT%H:%M:%S+00:00)"
    echo "asked=$1"
    echo "machine=$machine"
    echo "version=$version"
    [ -z "$system" ] || echo "system=$system"
  } | lines
  close
}

common() {
  keep os-release /etc/os-release /usr/lib/os-release
  keep kernel /proc/version
  keep cpuinfo /proc/cpuinfo
  keep mountinfo /proc/self/mountinfo
  keep swaps /proc/swaps
  keep cmdline /proc/cmdline
  values values /sys/class/dmi/id/sys_vendor /sys/class/dmi/id/product_name \
    /sys/class/dmi/id/bios_version /proc/device-tree/model /sys/hypervisor/type \
    /sys/class/power_supply/*/type /sys/class/power_supply/*/online \
    /sys/class/power_supply/*/status /sys/class/power_supply/*/capacity \
    /sys/devices/system/cpu/cpu*/cpufreq/scaling_governor \
    /sys/devices/system/cpu/cpu*/thermal_throttle/core_throttle_count \
    /sys/class/thermal/thermal_zone*/type /sys/class/thermal/thermal_zone*/temp \
    /sys/block/*/queue/rotational /sys/block/*/removable /sys/block/*/device/type \
    /sys/block/zram*/mm_stat /sys/module/zswap/parameters/enabled \
    /sys/firmware/efi/fw_platform_size /sys/firmware/acpi/fpdt/boot/* \
    /proc/sys/kernel/arch /proc/sys/kernel/osrelease /proc/sys/kernel/ostype \
    /proc/1/comm /run/systemd/container
  open architecture; uname -m | lines; close
  open probe-pid; echo "|$$"; close
  open clock-ticks; echo '|100'; close # the kernel's interface to programs, on every architecture
  open session-environment
  env | grep -E '^(XDG_SESSION_(ID|TYPE|DESKTOP)|XDG_CURRENT_DESKTOP|DESKTOP_SESSION|DISPLAY|WAYLAND_DISPLAY|container)=' | lines
  close
  keep meminfo-before /proc/meminfo
  keep stat /proc/stat
  processes
  sleep 1
  keep stat /proc/stat
  processes
  keep uptime /proc/uptime
}

packages() {
  found=
  if [ -r /var/lib/dpkg/status ]; then
    found=1
    open dpkg-status
    grep -E '^$|^(Package|Status|Version|Installed-Size):' /var/lib/dpkg/status | lines
    close
  fi
  [ ! -r /lib/apk/db/installed ] || { found=1; keep apk-installed /lib/apk/db/installed; }
  if [ -d /var/lib/pacman/local ]; then
    found=1
    open pacman-local
    cat /var/lib/pacman/local/*/desc | lines
    close
  fi
  if command -v rpm >/dev/null 2>&1; then
    found=1
    ask rpm-packages rpm -qa --queryformat '%{NAME} %{VERSION}-%{RELEASE} %{SIZE}\n'
  fi
  [ -n "$found" ] || fault absent 'packages: no package database that is known'
}

boot() {
  if [ -d /run/systemd/system ]; then
    ask boot-manager systemctl show --property=Version,FirmwareTimestampMonotonic,LoaderTimestampMonotonic,InitRDTimestampMonotonic,UserspaceTimestampMonotonic,FinishTimestampMonotonic
    ask boot-units systemctl show '*' --property=Id,InactiveExitTimestampMonotonic,ActiveEnterTimestampMonotonic,MainPID
    if [ -n "${XDG_SESSION_ID:-}" ]; then
      ask session loginctl show-session "$XDG_SESSION_ID" --property=Id,Type,Desktop,Service,TimestampMonotonic,Leader
    else
      fault absent 'session: XDG_SESSION_ID is not set here'
    fi
    ask journal-before journalctl --no-pager -b -1 -n 2000 -o short-monotonic
  else
    fault absent 'systemd: this system was not started by it'
    keep display-manager /etc/X11/default-display-manager
  fi
  efi=
  for name in LoaderTimeInitUSec LoaderTimeMenuUSec LoaderTimeExecUSec; do
    for file in /sys/firmware/efi/efivars/$name-*; do
      [ -r "$file" ] && efi="$efi|$name $(dd if="$file" bs=1 skip=4 2>/dev/null | tr -d '\0')
"
    done
  done
  [ -z "$efi" ] || { open efi-times; printf '%s' "$efi"; close; }
  ask kernel-log dmesg
  processes
}

used() { # kB in use, by the headline definition
  total=0 available=0
  while read -r key value unit; do
    case $key in MemTotal:) total=$value ;; MemAvailable:) available=$value; break ;; esac
  done </proc/meminfo
  echo $((total - available))
}

idle() { # samples until all kept within half a per cent for a window (range and drift hold then)
  open settle-rule; echo "|$window 0.005 0.02 $limit"; close
  begun=$(now); begun=${begun%%.*}
  since=$begun low=0 high=0
  while :; do
    keep meminfo /proc/meminfo
    level=$(used)
    at=$(now); at=${at%%.*}
    [ "$low" -gt 0 ] || { low=$level; high=$level; }
    [ "$level" -ge "$low" ] || low=$level
    [ "$level" -le "$high" ] || high=$level
    if [ $(((high - low) * 200)) -gt "$level" ]; then
      low=$level high=$level since=$at
    fi
    [ $((at - since)) -le "$window" ] || break
    [ $((at - begun)) -lt "$limit" ] || break
    [ $(((at - begun) % 10)) -ne 0 ] || say "idle: $((at - begun)) s, $((level / 1024)) MiB in use"
    sleep 1
  done
  keep instant-meminfo /proc/meminfo
  values compressed-swap /sys/block/zram*/mm_stat
  processes
  keep stat /proc/stat
}

footprint() {
  open filesystem; stat -f -c '|block_size=%S blocks=%b free=%f' /; close
  packages
  say 'footprint: adding up all files'
  errors=$(mktemp)
  tree=$(du -xkd1 / 2>"$errors")
  open walk
  echo "$tree" | while read -r size path; do
    case $path in
      /) echo "|total $((size * 1024))" ;;
      *) echo "|top $((size * 1024)) ${path#/}" ;;
    esac
  done
  for pair in caches:/var/cache caches:/root/.cache logs:/var/log; do
    size=$(du -xks "${pair#*:}" 2>/dev/null) && echo "|apart $((${size%%[!0-9]*} * 1024)) ${pair%%:*}"
  done
  echo "|unreadable $(grep -c . "$errors")"
  close
  rm -f "$errors"
}

for verb in "$@"; do
  say "$verb"
  head_of "$verb"
  common
  case $verb in
    about) packages ;;
    *) "$verb" ;;
  esac
done
