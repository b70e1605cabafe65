# Shared by ./start and ./test: installs what is missing, builds, and runs a PostgreSQL of our own. Sourced, not run.

export DOTNET_CLI_TELEMETRY_OPTOUT=1 DOTNET_NOLOGO=1
# What lives for a minute or two is over before measuring its own code pays: a build takes a quarter less without.
export DOTNET_TieredPGO=0

no_sdk="The .NET 10 SDK is missing. It is the package dotnet-sdk-10.0 of Microsoft's feed for Debian, or their archive unpacked to a folder of the PATH."
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

# stale STAMP FOLDER …: whether something in these folders was changed, added or deleted since a build left its stamp.
stale() {
  local stamp=$1; shift
  [ ! -e "$stamp" ] || [ -n "$(find "$@" "$here/Directory.Build.props" "$here/Directory.Packages.props" "$here/global.json" \
    \( -name bin -o -name obj -o -name node_modules \) -prune -o -newer "$stamp" -print -quit)" ]
}

# restore SOLUTION: the packages by their lock files, and the assets of the pages beside them, which have to be there before the pages are built.
restore() {
  local log code=0
  log=$(mktemp)
  (assets) & local fetched=$!
  dotnet restore "$1" --locked-mode -v quiet >"$log" 2>&1 || { cat "$log" >&2; code=1; }
  wait "$fetched" || code=1
  rm -f "$log"
  return $code
}

# compile STAMP SOLUTION [SWITCH …]: builds in Release, and leaves a stamp. What is changed meanwhile is stale again. One compiler serves all projects, also
# where the environment asks for one each, and waits for more: no_compiler sends it away.
compile() {
  local stamp=$1 solution=$2 log; shift 2
  log=$(mktemp)
  # These folders come into being now, so that the stamp is newer than the change of the folder that they lie in.
  for project in "$here"/src/*/ "$here"/tests/*.Tests/; do mkdir -p "$project/bin" "$project/obj"; done
  touch "$stamp.new"
  if ! dotnet build "$solution" -c Release --no-restore -v quiet --nologo -p:UseSharedCompilation=true "$@" >"$log" 2>&1; then
    cat "$log" >&2; rm -f "$log" "$stamp.new"; return 1
  fi
  rm -f "$log"
  mv "$stamp.new" "$stamp"
}

no_compiler() { dotnet build-server shutdown --vbcscompiler >/dev/null 2>&1 || true; }

# What ./start runs, and the stamp of its build.
serves="$here/src/Falzkunst.Core $here/src/Falzkunst.Store $here/src/Falzkunst.Web $here/src/Falzkunst.StandIns"
served=$here/src/Falzkunst.Web/bin/served

# free_port FROM [COUNT]: the first port from there on that no socket of this computer has, nor those after it, as many as are wanted. What lingers for a
# minute after a connection (06) does not count: who listens there next may.
free_port() {
  awk -v from="$1" -v count="${2:-1}" '
    $4 != "06" { taken[substr($2, length($2) - 3)] = 1 }
    END {
      for (port = from; port + count <= 65536; port++) {
        for (i = 0; i < count && !(sprintf("%04X", port + i) in taken); i++) { }
        if (i == count) { print port; exit 0 }
      }
      exit 1
    }' /proc/net/tcp $(ls /proc/net/tcp6 2>/dev/null) || fail "No port from $1 on is free."
}

# as_pg COMMAND …: PostgreSQL refuses to be root, so root becomes postgres, and anybody else stays as they are.
as_pg() {
  if [ "$(id -u)" = 0 ]; then (cd / && runuser -u postgres -- "$@"); else "$@"; fi
}

# as_owner …: psql as the owner of the cluster, on the server of start_pg.
as_owner() { PGPASSWORD=$(cat "$pg_folder.owner") psql -h 127.0.0.1 -p "$pg_port" -U falzkunst -v ON_ERROR_STOP=1 -qAtX "$@"; }

secret() { head -c 24 /dev/urandom | od -An -tx1 | tr -d ' \n'; }

# start_pg FOLDER PORT: makes a database server there if there is none, and starts it on loopback only. Nobody gets in without a password: one of the owner
# of the cluster (FOLDER.owner) and one of the application's role, which is no superuser (FOLDER.app), each in a file that only this user reads. Sets pg_login
# to what the application connects with.
start_pg() {
  need "/usr/lib/postgresql/*/bin/initdb" postgresql
  pg_bin=$(ls -d /usr/lib/postgresql/*/bin | sort -V | tail -1)
  pg_folder=$1 pg_port=$2
  mkdir -p "$pg_folder" 2>/dev/null && [ -w "$pg_folder" ] || fail "The folder $pg_folder can't be written. Name another by FALZKUNST_DATA."
  if [ "$(id -u)" = 0 ]; then chown postgres "$pg_folder"; fi
  chmod 700 "$pg_folder"
  as_pg test -x "$pg_folder" \
    || fail "The database's user can't enter $pg_folder. Name a folder by FALZKUNST_DATA that everybody may enter, such as one in /var/lib."
  local hba=$pg_folder/data/pg_hba.conf was_open=0
  for of in owner app; do
    [ -s "$pg_folder.$of" ] || (umask 077; secret >"$pg_folder.$of")
  done
  if [ ! -e "$pg_folder/data/PG_VERSION" ]; then
    # The password goes through a pipe into a file of the database's user, which is gone at once.
    as_pg bash -c 'umask 077; cat >"$1.pw"; "$2/initdb" -D "$1" -U falzkunst -A scram-sha-256 --pwfile="$1.pw" -E UTF8 --locale=C; code=$?
      rm -f "$1.pw"; exit $code' \
      _ "$pg_folder/data" "$pg_bin" <"$pg_folder.owner" >"$pg_folder.log" 2>&1 || { cat "$pg_folder.log" >&2; fail "The database could not be made."; }
  elif as_pg grep -q '^[^#].*trust' "$hba"; then
    was_open=1
  fi
  # What an earlier start left running when it was cut off; nobody else has this folder now.
  if as_pg "$pg_bin/pg_ctl" -D "$pg_folder/data" status >/dev/null 2>&1; then
    as_pg "$pg_bin/pg_ctl" -D "$pg_folder/data" -m fast -w stop >/dev/null 2>&1 || true
  fi
  # Where somebody took the port in the same moment, the next one is tried.
  local tries=0
  until run_pg; do
    tries=$((tries + 1))
    if [ $tries -gt 5 ] || ! tail -5 "$pg_folder/server.log" | grep -q "shut down"; then
      tail -5 "$pg_folder/server.log" >&2; fail "The database did not start; see above."
    fi
    pg_port=$(free_port $((pg_port + 1)))
  done
  if [ $was_open = 1 ]; then
    # A cluster of an earlier version let everybody on this computer in. Now the owner has a password, like everybody else.
    as_owner -d postgres <<<"ALTER ROLE falzkunst PASSWORD '$(cat "$pg_folder.owner")'"
    as_pg sed -i -E 's/^([^#].*)trust *$/\1scram-sha-256/' "$hba"
    as_pg "$pg_bin/pg_ctl" -D "$pg_folder/data" reload >/dev/null
  fi
  # Each is looked at every time: an earlier start may have been cut off between two of these steps.
  if [ -z "$(as_owner -d postgres -c "SELECT 1 FROM pg_roles WHERE rolname = 'falzkunst_app'")" ]; then
    # Through a pipe: what stands in a command can be read by everybody while it runs.
    as_owner -d postgres <<<"CREATE ROLE falzkunst_app LOGIN CREATEDB PASSWORD '$(cat "$pg_folder.app")'"
  fi
  if [ "$(as_owner -d postgres -c "SELECT pg_get_userbyid(datdba) FROM pg_database WHERE datname = 'falzkunst'")" = falzkunst ]; then
    as_owner -d falzkunst <"$here/tools/hand-over.sql"
    as_owner -d postgres -c "ALTER DATABASE falzkunst OWNER TO falzkunst_app"
  fi
  pg_login="Host=127.0.0.1;Port=$pg_port;Username=falzkunst_app;Password=$(cat "$pg_folder.app");Timeout=5"
}

# run_pg: starts the server of start_pg, again where it died.
run_pg() {
  as_pg "$pg_bin/pg_ctl" -D "$pg_folder/data" -w -l "$pg_folder/server.log" \
    -o "-p $pg_port -c listen_addresses=127.0.0.1 -c unix_socket_directories=''" start >/dev/null 2>&1
}

stop_pg() { [ -n "${pg_folder:-}" ] && as_pg "$pg_bin/pg_ctl" -D "$pg_folder/data" -m fast stop >/dev/null 2>&1 || true; }
