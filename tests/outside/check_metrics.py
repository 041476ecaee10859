"""Reads counters with a reader of OpenMetrics, from Debian's python3-prometheus-client: check_metrics.py FILE"""
import sys

try:
    from prometheus_client.openmetrics.parser import text_string_to_metric_families
except ImportError:
    print("not checked: python3-prometheus-client is not here")
    sys.exit(0)

families = list(text_string_to_metric_families(open(sys.argv[1], encoding="utf-8").read()))
samples = {s.name: s.value for f in families for s in f.samples if not s.labels}
assert len(families) > 10, families
assert samples["courier_events_total"] > 10, samples
print(f"{len(families)} families of metrics were read")
