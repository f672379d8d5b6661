package dev.brume.http.internal.resource;

import dev.brume.DefinitionsSeen;
import dev.brume.JobName;
import dev.brume.history.JobView;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Problem;
import java.util.Map;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** Tags of definitions (RFC 9110, 8.8.3): which version of which job somebody saw. Stateless. */
final class Tags {
    private static final Pattern TAG = Pattern.compile("\"(\\d{1,18})\\.(\\d{1,9})\"");

    private Tags() {}

    static String of(JobView view) {
        return of(view.row().id(), view.row().version());
    }

    static String of(long job, int version) {
        return "\"" + job + "." + version + "\"";
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
        Matcher tag = TAG.matcher(header.get());
        if (!tag.matches()) {
            throw new Problem(
                    Problem.Kind.INVALID,
                    "If-Match: expected the ETag of the definition that you saw, such as \"17.3\"");
        }
        Optional<JobView> now = call.history().job(name);
        int version = Integer.parseInt(tag.group(2));
        if (now.filter(view -> view.row().id() == Long.parseLong(tag.group(1))).isEmpty()) {
            throw new Problem(
                    Problem.Kind.CHANGED_MEANWHILE,
                    "the job '" + name + "' that you saw was dropped"
                            + (now.isPresent() ? ", and the one of today is another" : ""));
        }
        return Optional.of(new DefinitionsSeen(Map.of(name, version), Map.of(), Map.of()));
    }
}
