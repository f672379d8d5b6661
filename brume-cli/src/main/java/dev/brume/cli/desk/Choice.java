package dev.brume.cli.desk;

import dev.brume.history.RunFilter;
import java.util.LinkedHashMap;
import java.util.Map;

/** Which runs are meant, as a server takes it. Stateless. */
final class Choice {
    private Choice() {}

    /** {@return parameters, or members, of a choice; those that are not given are left out} */
    static Map<String, String> of(RunFilter filter) {
        Map<String, String> members = new LinkedHashMap<>();
        if (filter.namespaces().size() == 1) {
            members.put("namespace", filter.namespaces().iterator().next());
        }
        filter.job().ifPresent(job -> members.put("job", job.toString()));
        filter.tag().ifPresent(tag -> members.put("tag", tag));
        filter.outcome().ifPresent(outcome -> members.put("outcome", outcome.name()));
        filter.state().ifPresent(state -> members.put("state", state.name()));
        filter.from().ifPresent(from -> members.put("from", from.toString()));
        filter.until().ifPresent(until -> members.put("until", until.toString()));
        filter.reason().ifPresent(reason -> members.put("reason", reason));
        filter.instance().ifPresent(instance -> members.put("instance", instance));
        filter.origin().ifPresent(origin -> members.put("origin", origin.name()));
        filter.error().ifPresent(error -> members.put("error", error));
        filter.key().ifPresent(key -> members.put("key", key));
        return members;
    }
}
