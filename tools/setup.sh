# Shared by ./start and ./test: installs what is missing, builds, and runs a PostgreSQL of our own. Sourced, not run.

export DOTNET_CLI_TELEMETRY_OPTOUT=1 DOTNET_NOLOGO=1

say() { printf '%s\n' "$*" >&2; }
fail() { say "$*"; exit 1; }

# need COMMAND-OR-FILE PACKAGE …: installs Debian packages where the first is not there yet.
need() {
  local what=$1; shift
  if command -v "$what" >/dev/null 2>&1 || compgen -G "$what" >/dev/null; then return; fi
  say "Installing $* …"
  local sudo=""
  if [ "$(id -u)" != 0 ]; then command -v sudo >/dev/null || fail "Please install these packages as root: $*"; sudo="sudo"; fi
  # The default cluster that Debian makes is not ours and is not wanted.
  if [ ! -e /etc/postgresql-common/createcluster.conf ] && [[ " $* " == *" postgresql"* ]]; then
    $sudo mkdir -p /etc/postgresql-common
    echo "create_main_cluster = false" | $sudo tee /etc/postgresql-common/createcluster.conf >/dev/null
  fi
  local log; log=$(mktemp)
  if ! { $sudo apt-get update -qq && $sudo env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq "$@"; } >"$log" 2>&1; then
    tail -20 "$log" >&2; fail "The packages $* could not be installed; see above."
  fi
  rm -f "$log"
}

# The assets of the pages: from npm by the lock file, copied into the web root.
assets() {
  local web=$here/src/Falzkunst.Web
  local done=$web/wwwroot/lib/.done
  if [ ! -e "$done" ] || [ "$web/package-lock.json" -nt "$done" ] || [ "$web/copy-assets.mjs" -nt "$done" ]; then
    say "Fetching styles, scripts and fonts …"
    (cd "$web" && npm ci --silent && node copy-assets.mjs && touch wwwroot/lib/.done) || fail "The assets of the pages could not be fetched."
  fi
}

# free_port FROM: the first port from there on that nobody listens on.
free_port() {
  node -e '
    const net = require("net");
    const go = port => {
      const server = net.createServer();
      server.once("error", () => go(port + 1));
      server.listen(port, "127.0.0.1", () => server.close(() => console.log(port)));
    };
    go(Number(process.argv[1]))' "$1"
}

# as_pg COMMAND …: PostgreSQL refuses to be root, so root becomes postgres, and anybody else stays as they are.
as_pg() {
  if [ "$(id -u)" = 0 ]; then (cd / && runuser -u postgres -- "$@"); else "$@"; fi
}

# start_pg FOLDER PORT: makes a database server there if there is none, and starts it on loopback only.
start_pg() {
  need "/usr/lib/postgresql/*/bin/initdb" postgresql
  pg_bin=$(ls -d /usr/lib/postgresql/*/bin | sort -V | tail -1)
  pg_folder=$1
  mkdir -p "$pg_folder"
  if [ "$(id -u)" = 0 ]; then chown postgres "$pg_folder"; fi
  chmod 700 "$pg_folder"
  if [ ! -e "$pg_folder/data/PG_VERSION" ]; then
    as_pg "$pg_bin/initdb" -D "$pg_folder/data" -U falzkunst -A trust -E UTF8 --locale=C >"$pg_folder.log" 2>&1 \
      || { cat "$pg_folder.log" >&2; fail "The database could not be made."; }
  fi
  if ! as_pg "$pg_bin/pg_ctl" -D "$pg_folder/data" -w -l "$pg_folder/server.log" \
      -o "-p $2 -c listen_addresses=127.0.0.1 -c unix_socket_directories=''" start >/dev/null 2>&1; then
    tail -5 "$pg_folder/server.log" >&2; fail "The database did not start. If another ./start of this folder is running, stop it first."
  fi
}

stop_pg() { [ -n "${pg_folder:-}" ] && as_pg "$pg_bin/pg_ctl" -D "$pg_folder/data" -m fast stop >/dev/null 2>&1 || true; }
