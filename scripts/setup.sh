# Installs what is missing; sourced by ./start and ./test. Each step is skipped when its stamp says that it is done.
set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."

say() { printf '%s\n' "$*"; }
die() { printf '%s\n' "$*" >&2; exit 1; }
mkdir -p var/log

# run_logged NAME COMMAND...: quiet unless it fails.
run_logged() {
  local log="var/log/$1.log"; shift
  "$@" >"$log" 2>&1 || { tail -n 5 "$log" >&2; return 1; }
}

# A Debian package is asked for by the file that it brings, so that other ways of installing it serve too.
need_packages() {
  local missing=() pair
  for pair in "$@"; do compgen -G "${pair#*=}" >/dev/null || missing+=("${pair%%=*}"); done
  [ ${#missing[@]} -eq 0 ] && return 0
  local as_root=()
  if [ "$(id -u)" -ne 0 ]; then
    command -v sudo >/dev/null && sudo -n true 2>/dev/null ||
      die "These Debian packages are missing: ${missing[*]}. Ask an administrator for: apt-get install ${missing[*]}"
    as_root=(sudo -n)
  fi
  command -v apt-get >/dev/null || die "These packages are missing and there is no apt-get here: ${missing[*]}"
  say "Installing Debian packages: ${missing[*]} ..."
  # No system-wide cluster is wanted beside our own.
  local keep_out=/etc/postgresql-common/createcluster.d/attentive-owl.conf
  "${as_root[@]}" mkdir -p "${keep_out%/*}"
  echo "create_main_cluster = false" | "${as_root[@]}" tee "$keep_out" >/dev/null
  local ok=0
  run_logged apt "${as_root[@]}" sh -c 'apt-get update -q; DEBIAN_FRONTEND=noninteractive apt-get install -q -y --no-install-recommends "$@"' apt "${missing[@]}" || ok=1
  "${as_root[@]}" rm -f "$keep_out"
  [ $ok -eq 0 ] || die "The Debian packages could not be installed; the log is var/log/apt.log."
}

stamp_is() { [ -f "$1" ] && [ "$(cat "$1")" = "$2" ]; }
sum_of() { cat "$@" | sha256sum | cut -d' ' -f1; }

python_environment() {
  local extra="$1" python=python3 stamp sum lock=requirements.lock
  [ -z "$extra" ] || lock=requirements-dev.lock
  command -v python3.11 >/dev/null && python=python3.11
  command -v "$python" >/dev/null || need_packages python3=/usr/bin/python3
  "$python" -c 'import sys; sys.exit(sys.version_info < (3, 11))' || die "Python 3.11 or newer is needed; this is $("$python" --version)."
  stamp=".venv/stamp$extra"; sum="$(sum_of pyproject.toml "$lock")"
  stamp_is "$stamp" "$sum" && return 0
  if [ ! -x .venv/bin/pip ]; then
    "$python" -c 'import ensurepip' 2>/dev/null || need_packages "python3-venv=/usr/lib/python3.11/ensurepip/__init__.py"
    run_logged venv "$python" -m venv .venv || die "The virtual environment could not be made."
  fi
  say "Installing Python packages ..."
  # The lock holds every package with its hash; ourselves need nothing beside.
  run_logged pip sh -c '.venv/bin/pip install -q --require-hashes -r "$1" && .venv/bin/pip install -q --no-deps -e .' pip "$lock" || die "The Python packages could not be had; the log is var/log/pip.log."
  echo "$sum" >"$stamp"
}

node_packages() {
  command -v node >/dev/null && command -v npm >/dev/null || die "Node.js 20 with npm is needed."
  local sum; sum="$(sum_of frontend/package-lock.json)"
  stamp_is frontend/node_modules/.stamp "$sum" && return 0
  say "Installing npm packages ..."
  run_logged npm npm --prefix frontend ci --ignore-scripts --no-audit --no-fund || die "The npm packages could not be had; the log is var/log/npm.log."
  echo "$sum" >frontend/node_modules/.stamp
}

front_end() {
  local sum
  sum="$(find frontend/src frontend/public frontend/index.html frontend/vite.config.ts frontend/package-lock.json -type f -print0 | sort -z | xargs -0 sha256sum | sha256sum | cut -d' ' -f1)"
  stamp_is frontend/dist/.stamp "$sum" && return 0
  node_packages
  say "Building the front end ..."
  run_logged vite npm --prefix frontend run build || die "The front end did not build; the log is var/log/vite.log."
  run_logged compress .venv/bin/python -m whitenoise.compress -q frontend/dist
  echo "$sum" >frontend/dist/.stamp
}
