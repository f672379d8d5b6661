package dev.brume.http.internal.resource;

import dev.brume.DefinitionsSeen;
import dev.brume.JobName;
import dev.brume.history.JobView;
import dev.brume.http.internal.draft.Seen;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Problem;
import java.util.Map;
import java.util.Optional;

/** Tags of definitions (RFC 9110, 8.8.3): which version of which job somebody saw. Stateless. */
final class Tags {
    private Tags() {}

    static String of(JobView view) {
        return Seen.of(view).tag();
    }

    static String of(long job, int version) {
        return new Seen(job, version).tag();
    }

    /**
     * {@return what the caller says that they saw of a job; empty if they say nothing}
     *
     * @throws Problem if it is something else by now
     */
    static Optional<DefinitionsSeen> seen(Call call, JobName name) {
        Optional<String> header = call.incoming().header("If-Match");
        if (header.isEmpty() || header.get().equals("*")) {
            return Optional.empty();
        }
        Seen tag = Seen.read(header.get())
                .orElseThrow(() -> new Problem(
                        Problem.Kind.INVALID,
                        "If-Match: expected the ETag of the definition that you saw, such as \"17.3\""));
        Optional<JobView> now = call.history().job(name);
        if (now.filter(view -> view.row().id() == tag.job()).isEmpty()) {
            throw new Problem(
                    Problem.Kind.CHANGED_MEANWHILE,
                    "the job '" + name + "' that you saw was dropped"
                            + (now.isPresent() ? ", and the one of today is another" : ""));
        }
        return Optional.of(new DefinitionsSeen(Map.of(name, tag.version()), Map.of(), Map.of()));
    }
}
