package dev.brume.http.internal.draft;

import dev.brume.FollowUp;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.definitions.DefinitionFile;
import dev.brume.definitions.YamlText;
import dev.brume.history.History;
import dev.brume.history.JobFilter;
import dev.brume.history.JobView;
import dev.brume.http.internal.web.Problem;
import dev.brume.internal.document.JobDocument;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/**
 * After which job of its namespace a job is to run. That stands in the definition of the other one, so that it changes along.
 *
 * @param job the other one; empty if it is to follow none
 * @param on which of its ends
 */
public record Followed(Optional<JobName> job, FollowUp.On on) {
    /** After none. */
    static final Followed NONE = new Followed(Optional.empty(), FollowUp.On.SUCCESS);

    private static final int MOST = 1_000;
    private static final String KEY = "followUps";

    /** {@return the jobs of a namespace that a job follows by now} */
    static List<JobView> before(History history, JobName name) {
        return history.jobs(JobFilter.first(MOST).followedBy(name).within(Set.of(name.namespace())));
    }

    /**
     * {@return the other jobs as they are to be defined, those alone that change}
     *
     * @throws Problem if the other job is not there, or not of the namespace
     */
    public List<Job> changes(History history, JobName name) {
        Map<JobName, JobView> others = new LinkedHashMap<>();
        before(history, name).forEach(view -> others.put(view.name(), view));
        job.ifPresent(wanted -> {
            if (!wanted.namespace().equals(name.namespace())) {
                throw new Problem(
                        Problem.Kind.REFUSED,
                        "after: '" + wanted + "' is a job of another namespace; its definition names what follows it");
            }
            others.computeIfAbsent(
                    wanted,
                    any -> history.job(wanted)
                            .orElseThrow(() -> new Problem(
                                    Problem.Kind.REFUSED,
                                    "after: there is no job '" + wanted + "' that it could follow")));
        });
        List<Job> changed = new ArrayList<>();
        for (JobView view : others.values()) {
            boolean follows = job.filter(view.name()::equals).isPresent();
            Job with = with(view.job(), name, follows);
            if (!with.equals(view.job())) {
                changed.add(with);
            }
        }
        return changed;
    }

    private Job with(Job other, JobName name, boolean follows) {
        Map<String, Object> document = JobDocument.write(other);
        Map<String, Object> ends = new LinkedHashMap<>();
        for (FollowUp.On end : FollowUp.On.values()) {
            List<String> targets = new ArrayList<>(other.followUps().stream()
                    .filter(followUp -> followUp.on() == end && !followUp.job().equals(name))
                    .map(followUp -> followUp.job().toString())
                    .toList());
            if (follows && end == on) {
                targets.add(name.toString());
            }
            if (!targets.isEmpty()) {
                ends.put(end.name().toLowerCase(Locale.ROOT), targets);
            }
        }
        if (ends.isEmpty()) {
            document.remove(KEY);
        } else {
            document.put(KEY, ends);
        }
        return DefinitionFile.parseJob("document", other.name(), YamlText.of(document));
    }
}
