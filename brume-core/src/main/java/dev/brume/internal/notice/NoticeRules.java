package dev.brume.internal.notice;

import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.history.TellingRow;
import dev.brume.notice.Channel;
import dev.brume.notice.NoticeKind;
import dev.brume.notice.NoticeRule;
import dev.brume.spi.Notable;
import java.util.Collection;
import java.util.EnumSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/** The channels and rules that are in force, of all sources. Immutable. */
public final class NoticeRules {
    /** Nothing is told. */
    public static final NoticeRules NONE = new NoticeRules(0, List.of(), Set.of());

    private final long version;
    private final List<TellingRow> rows;
    private final Map<String, Channel> channels = new LinkedHashMap<>();
    private final List<NoticeRule> rules;
    private final List<NoticeRule> ofSuccess;
    private final Set<String> troubled;

    /**
     * Puts them together.
     *
     * @param version of the head that they were read under
     * @param rows what each source says; of two channels of one name that of the source that comes first counts
     * @param troubled the names of the jobs of which something is to be told that a success ends
     */
    public NoticeRules(long version, List<TellingRow> rows, Set<String> troubled) {
        this.version = version;
        this.rows = List.copyOf(rows);
        this.troubled = Set.copyOf(troubled);
        rows.forEach(row -> row.telling().channels().forEach(channel -> channels.putIfAbsent(channel.name(), channel)));
        rules = rows.stream().flatMap(row -> row.telling().rules().stream()).toList();
        ofSuccess = rules.stream()
                .filter(rule -> rule.kinds().contains(NoticeKind.ENDED_WELL)
                        || rule.tookLonger().isPresent())
                .toList();
    }

    /** {@return the same, with other jobs in trouble} */
    public NoticeRules troubled(Set<String> jobs) {
        return jobs.equals(troubled) ? this : new NoticeRules(version, rows, jobs);
    }

    /** {@return the version of the head that they were read under} */
    public long version() {
        return version;
    }

    /** {@return whether nothing is told} */
    public boolean isEmpty() {
        return rules.isEmpty() && channels.isEmpty();
    }

    /** {@return the channels by name} */
    public Map<String, Channel> channels() {
        return channels;
    }

    /** {@return all rules} */
    public List<NoticeRule> rules() {
        return rules;
    }

    /** {@return whether a success of a job is to be noted: somebody is told of it, or of what it ends} */
    public boolean notesSuccess(Job job) {
        if (troubled.contains(job.name().toString())) {
            return true;
        }
        if (ofSuccess.isEmpty()) {
            return false;
        }
        Set<String> tags = Set.copyOf(job.tags());
        return ofSuccess.stream().anyMatch(rule -> rule.concerns(job.name(), tags));
    }

    /** {@return the rules that concern a job, or what concerns none} */
    List<NoticeRule> concerning(Optional<JobName> job, Set<String> tags) {
        return rules.stream()
                .filter(rule -> job.map(name -> rule.concerns(name, tags)).orElse(rule.isOfCluster()))
                .toList();
    }

    /** {@return what has to be noted when it happens, for some rules} */
    public static Set<Notable.Kind> wants(Collection<NoticeRule> rules) {
        Set<Notable.Kind> wanted = EnumSet.noneOf(Notable.Kind.class);
        for (NoticeRule rule : rules) {
            for (NoticeKind kind : rule.all()) {
                switch (kind) {
                    case ATTEMPT_FAILED ->
                        wanted.addAll(Set.of(Notable.Kind.ATTEMPT_FAILED, Notable.Kind.FAILED, Notable.Kind.TIMED_OUT));
                    case FAILED, FAILED_IN_A_ROW -> wanted.addAll(Set.of(Notable.Kind.FAILED, Notable.Kind.TIMED_OUT));
                    case MISSED, SKIPPED_IN_A_ROW ->
                        wanted.addAll(Set.of(Notable.Kind.SKIPPED, Notable.Kind.PASSED_OVER));
                    case LOST -> wanted.add(Notable.Kind.LOST);
                    case TAKEN_OVER -> wanted.addAll(Set.of(Notable.Kind.TAKEN_OVER, Notable.Kind.LOST));
                    default -> {
                        // Found by whoever looks, or a success.
                    }
                }
            }
            wanted.add(Notable.Kind.SUCCEEDED);
        }
        return wanted;
    }
}
