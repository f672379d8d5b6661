package dev.brume.spring;

import dev.brume.Brume;
import dev.brume.StoreException;
import dev.brume.Vitals;
import dev.brume.history.Backlog;
import dev.brume.insight.doctor.Checkup;
import dev.brume.insight.doctor.Finding;
import dev.brume.insight.health.InstanceHealth;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;
import org.springframework.boot.actuate.endpoint.annotation.Endpoint;
import org.springframework.boot.actuate.endpoint.annotation.ReadOperation;
import org.springframework.boot.actuate.endpoint.annotation.Selector;

/**
 * What Actuator tells at {@code /actuator/brume}: how the instance fares and what the cluster owes; at {@code /actuator/brume/doctor} what a checkup finds.
 *
 * @since 0.1.0
 */
@Endpoint(id = "brume")
public final class BrumeEndpoint {
    private final Brume brume;

    BrumeEndpoint(Brume brume) {
        this.brume = brume;
    }

    /** {@return how the instance fares and what the cluster owes} */
    @ReadOperation
    public Map<String, Object> fares() {
        Vitals vitals = brume.vitals();
        InstanceHealth ready = InstanceHealth.ready(brume);
        Map<String, Object> all = new LinkedHashMap<>();
        all.put("instance", vitals.instance());
        all.put("state", vitals.state());
        all.put("ready", ready.well());
        all.put("findings", findings(ready.findings()));
        vitals.leaseLeft().ifPresent(left -> all.put("leaseLeftMillis", left.toMillis()));
        all.put("clockAheadMillis", vitals.clockAhead().toMillis());
        Map<String, Object> lanes = new TreeMap<>();
        vitals.lanes()
                .forEach((lane, workers) ->
                        lanes.put(lane, Map.of("workers", workers.workers(), "busy", workers.busy())));
        all.put("lanes", lanes);
        all.put("held", vitals.held());
        try {
            Backlog backlog = brume.history().backlog();
            Map<String, Object> owed = new LinkedHashMap<>();
            owed.put("owed", backlog.owed());
            owed.put("oldestMillis", backlog.oldest().toMillis());
            owed.put("ready", backlog.ready());
            owed.put("waiting", backlog.waiting());
            owed.put("unplanned", backlog.unplanned());
            owed.put("instances", backlog.instances());
            all.put("backlog", owed);
        } catch (StoreException e) {
            all.put("backlog", Map.of("error", String.valueOf(e.getMessage())));
        }
        return all;
    }

    /** {@return what a checkup finds; null, which is not found, for anything but {@code doctor}} */
    @ReadOperation
    public @Nullable Map<String, Object> look(@Selector String what) {
        if (!what.equals("doctor")) {
            return null;
        }
        Checkup.Result result = Checkup.of(brume).look();
        Map<String, Object> all = new LinkedHashMap<>();
        all.put("database", result.product());
        all.put("jobs", result.jobs());
        all.put("instances", result.alive());
        all.put("findings", findings(result.findings()));
        return all;
    }

    static List<Map<String, String>> findings(List<Finding> all) {
        return all.stream()
                .map(finding -> {
                    Map<String, String> map = new LinkedHashMap<>();
                    map.put("severity", finding.severity().name());
                    map.put("topic", finding.topic());
                    map.put("about", finding.about());
                    map.put("text", finding.text());
                    map.put("advice", finding.advice());
                    return map;
                })
                .toList();
    }
}
