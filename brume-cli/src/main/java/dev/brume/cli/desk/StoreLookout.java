package dev.brume.cli.desk;

import dev.brume.JobName;
import dev.brume.definitions.InsightViews;
import dev.brume.definitions.TimeText;
import dev.brume.history.History;
import dev.brume.history.JobView;
import dev.brume.history.Timeframe;
import dev.brume.http.TallyPage;
import dev.brume.insight.doctor.Checkup;
import dev.brume.insight.past.AsItWas;
import dev.brume.insight.rehearsal.Present;
import dev.brume.insight.seal.SealCheck;
import dev.brume.insight.tally.PeriodFigures;
import dev.brume.insight.tally.PeriodTally;
import dev.brume.insight.tally.RollUpCheck;
import dev.brume.insight.why.Answer;
import dev.brume.insight.why.Question;
import dev.brume.internal.duty.Settings;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * A store that is looked at.
 *
 * @param history of it
 */
public record StoreLookout(History history) implements Lookout {
    @Override
    public Lookout asOf(Instant then) {
        return new StoreLookout(AsItWas.of(history, then));
    }

    @Override
    public long alive() {
        Instant now = history.now();
        return history.sessions(/* ended= */ false).stream()
                .filter(session -> !session.row().lapsedAt(now))
                .count();
    }

    @Override
    public Answer why(JobView job, Optional<Instant> then, ZoneId zone) {
        Instant now = history.now();
        Question question = new Question(history, job, now, at -> TimeText.near(at, now, zone));
        return then.map(question::about).orElseGet(question::aboutNow);
    }

    @Override
    public Optional<Seen> shown(long run) {
        return history.run(run)
                .map(view -> Seen.of(
                        InsightViews.shown(view, InsightViews.whySkipped(history, view), history.erasure(run))));
    }

    @Override
    public Seen tally(Optional<JobName> job, Instant from, Instant until, boolean lineByLine) {
        return Seen.of(InsightViews.tally(PeriodTally.of(history, job, from, until, lineByLine)));
    }

    @Override
    public String tallyPage(Optional<JobName> job, Instant from, Instant until, String who, String with, String of) {
        PeriodTally tally = PeriodTally.of(history, job, from, until, /* lineByLine= */ true);
        Map<String, String> facts = new LinkedHashMap<>();
        facts.put("written", tally.at() + " by the database's clock, by " + who + ", with " + with);
        facts.put("database", of);
        facts.put("zone rules", "time zone database " + Settings.ownTzdata());
        return TallyPage.of(tally, facts);
    }

    @Override
    public Seen figures(Optional<JobName> job, Instant from, Instant until, boolean lineByLine) {
        return Seen.of(InsightViews.figures(PeriodFigures.of(history, job, from, until, lineByLine)));
    }

    @Override
    public Checkup.Result findings(ZoneId zone) {
        return new Checkup(history, Instant.now(), Settings.ownTzdata(), at -> TimeText.withOffset(at, zone)).look();
    }

    @Override
    public Seen sealCheck(Optional<String> head) {
        return Seen.of(InsightViews.sealCheck(SealCheck.of(history, head.map(StoreLookout::kept))));
    }

    private static SealCheck.Kept kept(String head) {
        int colon = head.indexOf(':');
        return new SealCheck.Kept(Long.parseLong(head.substring(0, colon)), head.substring(colon + 1));
    }

    @Override
    public Seen sumsChecked(Instant from, Instant until) {
        return Seen.of(InsightViews.sumsChecked(
                from, until, RollUpCheck.differences(history, Timeframe.between(from, until))));
    }

    @Override
    public Map<JobName, List<Duration>> took(Duration measured) {
        return Present.took(history, measured);
    }

    @Override
    public Optional<Duration> usually(JobName job, Instant from, Instant until) {
        List<Duration> took = new ArrayList<>();
        history.accounts(
                Timeframe.between(from, until).of(job),
                account -> account.lines().stream()
                        .flatMap(line -> line.took().stream())
                        .forEach(took::add));
        Collections.sort(took);
        return took.isEmpty() ? Optional.empty() : Optional.of(took.get(took.size() / 2));
    }
}
