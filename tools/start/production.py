"""`./run serve`: a studio at work. Several web processes behind a proxy (nginx) that takes slow clients on itself."""

import ipaddress
import os
import shutil
from pathlib import Path

from tools.start import postgres
from tools.start.errors import StartError
from tools.start.services import Services

#: What one upload may be, a little above the application's own limit: that one is said in words.
_MOST_MB = 2100

_NGINX = """
daemon off;
master_process on;
pid {data}/nginx-own.pid;
error_log {data}/proxy.log warn;
worker_processes 1;
{user}
events {{ worker_connections 4096; }}
http {{
  include /etc/nginx/mime.types;
  access_log off;
  server_tokens off;
  client_body_temp_path {data}/tmp/proxy-body;
  proxy_temp_path {data}/tmp/proxy-answer;
  fastcgi_temp_path {data}/tmp/proxy-unused1;
  uwsgi_temp_path {data}/tmp/proxy-unused2;
  scgi_temp_path {data}/tmp/proxy-unused3;
  client_max_body_size {most}m;
  client_header_timeout 20s;
  client_body_timeout 30s;
  send_timeout 60s;
  keepalive_timeout 60s;
  large_client_header_buffers 4 16k;
  upstream web {{
    # One person's requests go to one process, which knows what it worked out for them last.
    hash $remote_addr$cookie_sessionid consistent;
{servers}
    keepalive 32;
  }}
  server {{
    listen {host}:{port};
    location /live/ {{
      # Streams that stay open.
      proxy_pass http://127.0.0.1:{live};
      proxy_http_version 1.1;
      proxy_set_header Connection "";
      proxy_set_header Host $http_host;
      proxy_buffering off;
      proxy_read_timeout 60s;
    }}
    location / {{
      proxy_pass http://web;
      proxy_http_version 1.1;
      proxy_set_header Connection "";
      proxy_set_header Host $http_host;
      proxy_set_header X-Forwarded-For $remote_addr;
      proxy_set_header X-Forwarded-Proto $forwarded_proto;
      proxy_read_timeout 120s;
      proxy_connect_timeout 5s;
      proxy_next_upstream error timeout;
      # Large uploads are passed on as they come: the web process keeps them on disk itself, and looks for room.
      proxy_request_buffering off;
    }}
  }}
{before}
}}
"""


def start_production(services: Services, workers: int) -> None:
    """Start so many web processes on free ports of this machine, and the proxy on the site's own address."""
    nginx = shutil.which("nginx", path="/usr/sbin:/usr/bin:/sbin:/bin")
    if nginx is None:
        raise StartError("nginx is not installed; install Debian's package nginx-light.")
    # The web processes are behind ours.
    services.environment["TINFORK_PROXY"] = "127.0.0.1"
    live = postgres.free_port()
    services.start_live(live)
    ports = [postgres.free_port() for _ in range(workers)]
    for at, port in enumerate(ports, start=1):
        services.start_web(f"web-{at}", "127.0.0.1", port)
    config = services.data / "nginx.conf"
    before = os.environ.get("TINFORK_PROXY", "")
    config.write_text(_configuration(services.data, services.host, services.port, ports, live, before))
    services.spawn(
        "proxy", [nginx, "-c", str(config), "-p", str(services.data), "-e", str(services.data / "proxy.log")]
    )
    services.wait_until_answering("proxy", services.host, services.port)


#: Where something before it takes people in, that one says who they are and how they came; else nobody's word counts.
_ALONE = "  map $scheme $forwarded_proto {{ default $scheme; }}"
_BEHIND = """  set_real_ip_from {address};
  real_ip_header X-Forwarded-For;
  real_ip_recursive on;
  map $http_x_forwarded_proto $forwarded_proto {{ default $scheme; https https; }}"""


def _configuration(data: Path, host: str, port: int, ports: list[int], live: int, before: str) -> str:
    """Nginx's configuration; `before` is the address of what is before it.

    Names of folders with signs that mean something there are refused.
    """
    try:
        address = ipaddress.ip_address(before) if before else None
    except ValueError:
        raise StartError(
            f"TINFORK_PROXY is “{before}”, and must be the address of the proxy before this one."
        ) from None
    if any(sign in str(data) for sign in " ;{}\"'$\\"):
        raise StartError(f"The folder {data} has signs in its name that the proxy cannot read. Try --data DIR")
    return _NGINX.format(
        data=data,
        host=host,
        port=port,
        live=live,
        most=_MOST_MB,
        servers="\n".join(f"    server 127.0.0.1:{one} max_fails=1 fail_timeout=1s;" for one in ports),
        before=(_BEHIND if address else _ALONE).format(address=address),
        # As root it would give its files to another user, who cannot come to this folder.
        user="user root;" if os.geteuid() == 0 else "",
    )
