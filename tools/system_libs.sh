#!/usr/bin/env bash
# See that the shared libraries Qt needs are there. Root gets them installed; anybody else gets one line to run.
# Usage: system_libs.sh [window] [xvfb]
set -euo pipefail
declare -A package=(
  [libGL.so.1]=libgl1 [libEGL.so.1]=libegl1 [libxkbcommon.so.0]=libxkbcommon0 [libdbus-1.so.3]=libdbus-1-3
  [libfontconfig.so.1]=libfontconfig1 [libglib-2.0.so.0]=libglib2.0-0 [libxcb-cursor.so.0]=libxcb-cursor0
  [libxcb-icccm.so.4]=libxcb-icccm4 [libxcb-image.so.0]=libxcb-image0 [libxcb-keysyms.so.1]=libxcb-keysyms1
  [libxcb-randr.so.0]=libxcb-randr0 [libxcb-render-util.so.0]=libxcb-render-util0 [libxcb-shape.so.0]=libxcb-shape0
  [libxcb-xinerama.so.0]=libxcb-xinerama0 [libxcb-xkb.so.1]=libxcb-xkb1 [libxkbcommon-x11.so.0]=libxkbcommon-x11-0
)
if [ -n "${WAYLAND_DISPLAY:-}" ]; then
  package+=([libwayland-client.so.0]=libwayland-client0 [libwayland-cursor.so.0]=libwayland-cursor0 [libwayland-egl.so.1]=libwayland-egl1)
fi
PATH="$PATH:/sbin:/usr/sbin"
known=$(ldconfig -p 2>/dev/null || true)
missing=()
for want in "$@"; do
  case $want in
    window) for so in "${!package[@]}"; do grep -qF "$so " <<<"$known" || missing+=("${package[$so]}"); done ;;
    xvfb) command -v Xvfb >/dev/null || missing+=(xvfb) ;;
  esac
done
[ ${#missing[@]} -eq 0 ] && exit 0
if [ "$(id -u)" -eq 0 ] && command -v apt-get >/dev/null; then
  export DEBIAN_FRONTEND=noninteractive
  apt-get update -qq && apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null && exit 0
  echo "Installing ${missing[*]} failed." >&2; exit 1
fi
echo "System libraries are missing. Run: sudo apt-get install ${missing[*]}" >&2
exit 1
