# An OCI image (docs/running.md): data at /data, media read-only at /media.
FROM python:3.11-slim-bookworm
RUN apt-get update -q && apt-get install -y -q --no-install-recommends make libpango-1.0-0 libpangoft2-1.0-0 \
    libharfbuzz-subset0 && rm -rf /var/lib/apt/lists/* && useradd --create-home shapkeen
WORKDIR /app
COPY --chown=shapkeen . .
RUN chown shapkeen /app && mkdir /data && chown shapkeen /data
USER shapkeen
RUN make setup
ENV SHAPKEEN_BIND=0.0.0.0 SHAPKEEN_DATA=/data SHAPKEEN_LOG=json SHAPKEEN_MEDIA_ROOTS=media=/media
VOLUME /data
EXPOSE 8470
HEALTHCHECK CMD [".venv/bin/python", "-c", "import urllib.request as u; u.urlopen('http://127.0.0.1:8470/readyz', timeout=5)"]
CMD [".venv/bin/python", "manage.py", "serve"]
