package dev.brume.http;

import dev.brume.Brume;
import dev.brume.Role;
import dev.brume.definitions.Views;
import dev.brume.http.internal.web.Problem;
import dev.brume.http.internal.web.Reply;
import dev.brume.insight.doctor.Finding;
import dev.brume.insight.health.InstanceHealth;
import java.util.Optional;

/** Health, which is told to all, and metrics, which are told to those who may look at everything. */
final class OpenPaths {
    private static final String OPEN_METRICS = "application/openmetrics-text; version=1.0.0; charset=utf-8";

    private final Brume brume;
    private final Optional<MetricsText> metrics;

    OpenPaths(Brume brume, Optional<MetricsText> metrics) {
        this.brume = brume;
        this.metrics = metrics;
    }

    /** Whether the instance lives, and whether it is ready for work; nothing of what it does. */
    Optional<Reply> health(String path, String method) {
        boolean live = path.equals("/health/live");
        if (!live && !path.equals("/health/ready")) {
            return Optional.empty();
        }
        if (!method.equals("GET") && !method.equals("HEAD")) {
            throw new Problem(Problem.Kind.NO_SUCH_METHOD, method + " is not for this address")
                    .with("Allow", "GET, HEAD");
        }
        InstanceHealth health = live ? InstanceHealth.live(brume) : InstanceHealth.ready(brume);
        return Optional.of(Reply.json(
                health.well() ? 200 : 503,
                Views.object(
                        "well", health.well(),
                        "findings",
                                health.findings().stream()
                                        .map(Finding::topic)
                                        .distinct()
                                        .toList())));
    }

    Optional<Reply> metrics(String path, Caller caller) {
        if (!path.equals("/metrics") || metrics.isEmpty()) {
            return Optional.empty();
        }
        if (!caller.mayEverywhere(Role.VIEWER)) {
            throw new Problem(
                    Problem.Kind.NOT_ALLOWED, "metrics are of the whole cluster and take the role viewer everywhere");
        }
        return Optional.of(Reply.of(200, OPEN_METRICS, metrics.get().text()));
    }
}
