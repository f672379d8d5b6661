package dev.brume.simulator;

import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.history.CauseRow;
import dev.brume.history.History;
import dev.brume.history.NoticeFilter;
import dev.brume.history.NoticeRow;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.notice.Channel;
import dev.brume.notice.Notice;
import dev.brume.notice.NoticeKind;
import dev.brume.notice.NoticeRule;
import dev.brume.notice.Sender;
import dev.brume.notice.Telling;
import dev.brume.notice.Trouble;
import dev.brume.notice.Way;
import java.io.IOException;
import java.time.Duration;
import java.time.Instant;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.BooleanSupplier;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * The other side of a channel: it takes notices, its answers may be lost, and it knows what must hold. Nothing arrives twice once it is on record as
 * delivered; of a cause everything arrives in order; whatever fails is told, and over once
 * it succeeds. Confined to one thread.
 */
final class Deliveries implements Sender {
    /** A channel, and a rule for all jobs. */
    static final Telling TELLING = Telling.NOTHING
            .with(Channel.named("/duty", new Way.Code("duty")))
            .with(NoticeRule.named("/all")
                    .tell(
                            NoticeKind.ATTEMPT_FAILED,
                            NoticeKind.FAILED,
                            NoticeKind.MISSED,
                            NoticeKind.LOST,
                            NoticeKind.TAKEN_OVER)
                    .to("duty"));

    /** How long after something began to go wrong every instance knows that a success matters. */
    private static final Duration KNOWN = Duration.ofSeconds(30);

    private final History history;
    private final BooleanSupplier answerLost;
    private final Map<String, Long> newestOfCause = new HashMap<>();
    private final Set<String> arrived = new HashSet<>();
    private int lost;
    private InvariantChecker.@Nullable Violation broken;

    /**
     * Creates it.
     *
     * @param history of the store itself, without faults
     * @param answerLost whether an answer is lost
     */
    Deliveries(History history, BooleanSupplier answerLost) {
        this.history = history;
        this.answerLost = answerLost;
    }

    @Override
    public boolean sends(Way way) {
        return true;
    }

    @Override
    public String send(Channel channel, List<Notice> notices) throws IOException {
        try {
            notices.forEach(this::take);
        } catch (InvariantChecker.Violation e) {
            // Whoever sends takes whatever is thrown for a delivery that failed.
            broken = broken == null ? e : broken;
        }
        if (answerLost.getAsBoolean()) {
            lost++;
            throw new IOException("simulated: the answer is lost");
        }
        return "";
    }

    private void take(Notice notice) {
        NoticeRow row = history.notices(NoticeFilter.newest(Integer.MAX_VALUE).of(notice.cause())).stream()
                .filter(each -> each.notice().id().equals(notice.id()))
                .findFirst()
                .orElseThrow(() -> new InvariantChecker.Violation("I10", notice.id() + " is sent and not on record"));
        if (row.settledAt().isPresent()) {
            throw new InvariantChecker.Violation("I10", notice.id() + " is sent again although it is " + row.state());
        }
        if (arrived.add(notice.id())) {
            long before = newestOfCause.getOrDefault(notice.cause(), 0L);
            if (row.number() < before) {
                throw new InvariantChecker.Violation(
                        "I10", "notice " + row.number() + " of " + notice.cause() + " arrived after " + before);
            }
            newestOfCause.put(notice.cause(), row.number());
        }
    }

    /** The store became an older copy of itself: numbers may come again. */
    void goneBack() {
        newestOfCause.clear();
    }

    /** {@return how many notices arrived, each counted once} */
    int arrived() {
        return arrived.size();
    }

    /** {@return how many answers were lost} */
    int lost() {
        return lost;
    }

    /** Checks that whatever failed for good before an instant was told. */
    void check(Instant before) {
        if (broken != null) {
            throw broken;
        }
        Optional<Instant> since =
                history.tellings().stream().map(row -> row.definedAt()).findFirst();
        if (since.isEmpty()) {
            return;
        }
        Set<String> told = history.causes(/* over= */ true, Integer.MAX_VALUE).stream()
                .map(cause -> cause.key())
                .collect(Collectors.toSet());
        for (RunView run : history.runs(RunFilter.newest(Integer.MAX_VALUE).withOutcome(Outcome.FAILED))) {
            JobName job = run.job();
            boolean old = run.recordedAt()
                    .filter(at -> at.isBefore(before) && at.isAfter(since.get().plusSeconds(5)))
                    .isPresent();
            if (old && !told.contains(Trouble.FAILING.of(job.toString()))) {
                throw new InvariantChecker.Violation(
                        "I10", "run " + run.id() + " of " + job + " failed, and nothing was told");
            }
        }
        history.causes(/* over= */ false, Integer.MAX_VALUE).stream()
                .filter(cause -> cause.trouble() == Trouble.FAILING)
                .forEach(cause -> checkOver(cause, before));
    }

    /** What a success has ended, long after every instance could know that it matters, is over. */
    private void checkOver(CauseRow cause, Instant before) {
        JobName job = cause.jobName().orElseThrow();
        Instant known = cause.lastAt().plus(KNOWN);
        history.runs(RunFilter.newest(Integer.MAX_VALUE).of(job).withOutcome(Outcome.SUCCEEDED)).stream()
                .filter(run -> run.lastAttempt()
                        .filter(last -> last.startedAt().isAfter(known))
                        .isPresent())
                .filter(run -> run.recordedAt().filter(before::isAfter).isPresent())
                .findFirst()
                .ifPresent(run -> {
                    throw new InvariantChecker.Violation(
                            "I10", "run " + run.id() + " of " + job + " succeeded, and its trouble is not over");
                });
    }
}
