"""Where parts are worked on: on the cluster that the environment names, else in processes here."""

from .cluster import cluster_here
from .run import Pool, processes


def chosen_pool(workers: int) -> Pool | None:
    """Return the cluster's pool, or one of so many processes; None for one, which needs none."""
    return cluster_here() or processes(workers)
