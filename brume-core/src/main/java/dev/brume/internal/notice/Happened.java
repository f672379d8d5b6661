package dev.brume.internal.notice;

import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.notice.NoticeKind;
import dev.brume.notice.Sighting;
import dev.brume.notice.Trouble;
import dev.brume.schedule.Durations;
import dev.brume.spi.Notable;
import java.time.Duration;
import java.time.Instant;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Pattern;

/** What happened to a job, as what is to be told of it. Stateless. */
public final class Happened {
    private static final int LONGEST_PRINT = 160;
    private static final Pattern EXCEPTION = Pattern.compile("^([\\w$]+\\.)+[\\w$]+: (?=.)");

    private final Notable notable;
    private final Sighting.OfJob job;
    private final Instant at;

    private Happened(Notable notable, Sighting.OfJob job, Instant now) {
        this.notable = notable;
        this.job = job;
        this.at = notable.at().orElse(now);
    }

    /** {@return the keys of the causes that may be concerned by what happened to a job} */
    public static List<String> keys(JobName job) {
        return Arrays.stream(Trouble.values())
                .filter(trouble -> trouble.endsWithSuccess() || trouble == Trouble.NONE)
                .map(trouble -> trouble.of(job.toString()))
                .toList();
    }

    /**
     * Has a decider take note of it.
     *
     * @param name of the job now
     * @param definition in force; empty if this version cannot read it
     */
    public static void tell(
            NoticeDecider decider, Notable notable, JobName name, Optional<Job> definition, Instant now) {
        Set<String> tags = definition.map(job -> Set.copyOf(job.tags())).orElse(Set.of());
        Happened happened = new Happened(notable, new Sighting.OfJob(notable.job(), name, tags), now);
        if (notable.kind() == Notable.Kind.SUCCEEDED) {
            happened.succeeded(decider);
        } else {
            decider.saw(happened.sighting());
        }
    }

    private void succeeded(NoticeDecider decider) {
        if (notable.tookMillis() >= 0) {
            decider.saw(of(NoticeKind.TOOK_LONGER, " took " + took(), "took long"));
        }
        Map<String, String> facts = facts();
        for (Trouble trouble : Trouble.values()) {
            if (trouble.endsWithSuccess()) {
                decider.over(trouble.of(job.name().toString()), at, facts);
            }
        }
        decider.saw(
                of(NoticeKind.ENDED_WELL, " ended well" + (notable.tookMillis() < 0 ? "" : " after " + took()), ""));
    }

    private String took() {
        return Durations.about(Duration.ofMillis(notable.tookMillis()));
    }

    private Sighting sighting() {
        String why = notable.error().map(error -> ": " + plain(error)).orElse("");
        String print = notable.kind() + " " + looks(notable.error().orElse(""));
        return switch (notable.kind()) {
            case ATTEMPT_FAILED ->
                of(
                        NoticeKind.ATTEMPT_FAILED,
                        ": attempt " + notable.attempt() + " failed, and is tried again" + why,
                        print);
            case TAKEN_OVER -> of(NoticeKind.TAKEN_OVER, " was taken over from " + instance(), "lost");
            case FAILED -> of(NoticeKind.FAILED, " failed" + attempts() + why, print);
            case TIMED_OUT -> of(NoticeKind.FAILED, " ran into its time limit" + attempts() + why, print);
            case LOST -> of(NoticeKind.LOST, " was lost with " + instance(), "lost");
            case SKIPPED, PASSED_OVER ->
                notable.isMissed()
                        ? of(NoticeKind.MISSED, " missed " + occurrences(), "missed")
                        : of(
                                NoticeKind.SKIPPED_IN_A_ROW,
                                " skipped " + occurrences() + reason(),
                                "skipped " + notable.reason().orElse(""));
            case SUCCEEDED -> throw new IllegalStateException("a success is no trouble");
        };
    }

    private String attempts() {
        return notable.attempt() > 1 ? " after " + notable.attempt() + " attempts" : "";
    }

    private String instance() {
        return notable.instance().orElse("its instance");
    }

    private String reason() {
        return notable.reason()
                .map(reason -> " (" + reason.toLowerCase(Locale.ROOT).replace('_', ' ') + ")")
                .orElse("");
    }

    private String occurrences() {
        String planned = notable.planned().map(Instant::toString).orElse("");
        return notable.count() == 1
                ? "the occurrence of " + planned
                : notable.count() + " occurrences from " + planned + " on";
    }

    /** What an exception says, without its class, as far as it says something. */
    static String plain(String error) {
        return EXCEPTION.matcher(error).replaceFirst("");
    }

    /** What an error looks like, whatever numbers are in it. */
    private static String looks(String error) {
        String plain = error.replaceAll("[0-9]+", "#");
        return plain.length() <= LONGEST_PRINT ? plain : plain.substring(0, LONGEST_PRINT);
    }

    private Sighting of(NoticeKind kind, String words, String print) {
        String token = notable.run()
                .map(run -> run + "." + notable.attempt())
                .orElseGet(() -> notable.planned().orElse(at).toString());
        return new Sighting(
                kind,
                job.name().toString(),
                Optional.of(job),
                at,
                notable.count(),
                token,
                print,
                job.name() + words,
                facts());
    }

    private Map<String, String> facts() {
        Map<String, String> facts = new LinkedHashMap<>();
        notable.run().ifPresent(run -> facts.put("run", Long.toString(run)));
        notable.planned().ifPresent(planned -> facts.put("planned", planned.toString()));
        if (notable.attempt() > 0) {
            facts.put("attempt", Integer.toString(notable.attempt()));
        }
        notable.instance().ifPresent(name -> facts.put("instance", name));
        notable.at().ifPresent(ended -> facts.put("endedAt", ended.toString()));
        if (notable.tookMillis() >= 0) {
            facts.put("tookMillis", Long.toString(notable.tookMillis()));
        }
        notable.reason().ifPresent(reason -> facts.put("reason", reason));
        notable.error().ifPresent(error -> facts.put("error", error));
        return facts;
    }
}
