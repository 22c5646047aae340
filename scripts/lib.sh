# Shared by the scripts: where things are, PostgreSQL on loopback, one clear line on failure.
root="$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)"
export NEXT_TELEMETRY_DISABLED=1
# Each tool sets its own; one that is inherited would leave out what building needs.
unset NODE_ENV

fail() { echo "lantern: $*" >&2; exit 1; }

# absolute PATH: relative ones are meant from where npm was called.
absolute() { case "$1" in /*) echo "$1" ;; *) echo "${INIT_CWD:-$PWD}/$1" ;; esac; }

# writable FOLDER WORDS: makes the folder and tries to write to it.
writable() { mkdir -p "$1" 2>/dev/null && (: > "$1/.lantern-writes") 2>/dev/null && rm -f "$1/.lantern-writes" || fail "$2 $1 cannot be written to"; }

# taken PORT: whether something listens there.
taken() { (exec 3<>"/dev/tcp/127.0.0.1/$1") 2>/dev/null; }

# await_web PID PORT LOG: waits until the web server answers.
await_web() {
  for _ in $(seq 150); do
    kill -0 "$1" 2>/dev/null || { tail -n 5 "$3" >&2; fail "the web server did not start on port $2"; }
    timeout 5 bash -c "exec 3<>/dev/tcp/127.0.0.1/$2 && printf 'GET / HTTP/1.0\r\nHost: 127.0.0.1:$2\r\n\r\n' >&3 && head -n 1 <&3" 2>/dev/null | grep -q ' [23]0' && return 0
    sleep 0.2
  done
  fail "the web server does not answer on port $2"
}

pg_bin() { ls -d /usr/lib/postgresql/*/bin 2>/dev/null | sort -V | tail -n 1; }
as_postgres() { if [ "$(id -u)" = 0 ]; then (cd / && runuser -u postgres -- "$@"); else (cd / && "$@"); fi; }

# db_start FOLDER PORT: makes the cluster when it is not there, starts it, sets DATABASE_URL.
db_start() {
  local data="$1/pg" port="$2" bin secret
  bin="$(pg_bin)"; [ -n "$bin" ] || fail "PostgreSQL is not installed; run npm run setup"
  mkdir -p "$1"; chmod 755 "$1"
  exec 9>"$1/pg.lock"; flock -w 60 9 || fail "another start holds $1/pg.lock"
  secret="$1/pg.secret"
  if [ ! -f "$data/PG_VERSION" ]; then
    [ -f "$secret" ] || (umask 077; head -c 24 /dev/urandom | od -An -tx1 | tr -d ' \n' > "$secret")
    rm -rf "$data"; mkdir -p "$data"
    local pw; pw="$(mktemp)"; cat "$secret" > "$pw"
    if [ "$(id -u)" = 0 ]; then chown postgres "$data" "$pw"; fi
    as_postgres "$bin/initdb" -D "$data" -U lantern --auth=scram-sha-256 --pwfile="$pw" -E UTF8 --locale=C >"$1/initdb.log" 2>&1 \
      || { rm -f "$pw"; fail "initdb failed, see $1/initdb.log"; }
    rm -f "$pw"
  fi
  export DATABASE_URL="postgres://lantern:$(cat "$secret")@127.0.0.1:$port/lantern"
  local pid=""; [ -f "$data/postmaster.pid" ] && pid="$(head -n 1 "$data/postmaster.pid")"
  if [ -n "$pid" ]; then
    for _ in $(seq 50); do [ "$(awk '{print $3}' "/proc/$pid/stat" 2>/dev/null)" = Z ] || break; sleep 0.2; done
    if ! cat "/proc/$pid/cmdline" 2>/dev/null | tr '\0' ' ' | grep -q "$data"; then rm -f "$data/postmaster.pid"; pid=""; fi
  fi
  if [ -z "$pid" ]; then
    taken "$port" && fail "port $port is taken by another program, and the database needs it: choose another with LANTERN_PG_PORT (LANTERN_TEST_PG_PORT for tests)"
    local log="$data/../pg.log"; touch "$log"; [ "$(id -u)" = 0 ] && chown postgres "$log"
    as_postgres "$bin/pg_ctl" -D "$data" -l "$log" -w -t 60 -o "-p $port -c listen_addresses=127.0.0.1 -c unix_socket_directories='' -c jit=off -c shared_buffers=256MB -c max_wal_size=2GB -c max_connections=1000" start 9>&- >/dev/null 2>&1 \
      || fail "PostgreSQL did not start, see $log"
    db_started=1
  fi
  PGPASSWORD="$(cat "$secret")" psql -h 127.0.0.1 -p "$port" -U lantern -d postgres -qtAc "select 1 from pg_database where datname='lantern'" 9>&- | grep -q 1 \
    || PGPASSWORD="$(cat "$secret")" psql -h 127.0.0.1 -p "$port" -U lantern -d postgres -qc "create database lantern" 9>&- || fail "cannot reach PostgreSQL on 127.0.0.1:$port"
  exec 9>&-
}

# db_alive FOLDER: whether the cluster's server runs.
db_alive() { local pid; pid="$(head -n 1 "$1/pg/postmaster.pid" 2>/dev/null)" && [ -n "$pid" ] && [ -d "/proc/$pid" ] && [ "$(awk '{print $3}' "/proc/$pid/stat" 2>/dev/null)" != Z ]; }

# db_stop FOLDER: stops the cluster if this script started it.
db_stop() { [ "${db_started:-0}" = 1 ] && as_postgres "$(pg_bin)/pg_ctl" -D "$1/pg" -m fast -w -t 20 stop >/dev/null 2>&1; db_started=0; }

# end_process PID [SECONDS]: TERM, ten seconds of grace or so many, KILL.
end_process() {
  [ -n "${1:-}" ] && kill -0 "$1" 2>/dev/null || return 0
  kill -TERM "$1" 2>/dev/null
  for _ in $(seq $((${2:-10} * 10))); do kill -0 "$1" 2>/dev/null || return 0; sleep 0.1; done
  kill -KILL "$1" 2>/dev/null
}

# web_build: builds the pages when sources are newer than the last build; one build at a time.
web_build() {
  local stamp="$root/.next/lantern.stamp" now
  exec 7>"$root/node_modules/.lantern-build.lock"; flock 7
  now="$(cd "$root" && find src public next.config.ts postcss.config.mjs package-lock.json -type f -not -name '*.test.ts' -print0 | sort -z | xargs -0 sha256sum | sha256sum)"
  if [ ! -f "$stamp" ] || [ "$(cat "$stamp")" != "$now" ]; then
    (cd "$root" && npx --no-install next build > "$root/.next-build.log" 2>&1 7>&-) || { tail -n 30 "$root/.next-build.log" >&2; rm -rf "$root/.next"; fail "the page build failed"; }
    echo "$now" > "$stamp"
  fi
  exec 7>&-
}
