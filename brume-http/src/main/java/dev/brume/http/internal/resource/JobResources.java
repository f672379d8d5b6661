package dev.brume.http.internal.resource;

import dev.brume.JobName;
import dev.brume.definitions.InsightViews;
import dev.brume.definitions.TimeText;
import dev.brume.history.JobFilter;
import dev.brume.history.JobOrder;
import dev.brume.history.JobView;
import dev.brume.http.internal.resource.Shared.Period;
import dev.brume.http.internal.web.Answer;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Operation;
import dev.brume.http.internal.web.Pages;
import dev.brume.http.internal.web.Param;
import dev.brume.http.internal.web.Problem;
import dev.brume.http.internal.web.Reply;
import dev.brume.insight.tally.PeriodFigures;
import dev.brume.insight.why.Question;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/** Jobs, to be looked at. */
final class JobResources {
    private static final Duration A_DAY = Duration.ofDays(1);
    private static final Duration A_WEEK = Duration.ofDays(7);

    private enum State {
        FAILING,
        PAUSED
    }

    private static final Param<State> STATE = Param.word(
            "state",
            "Only those whose last run neither succeeded nor was skipped, or those that are paused.",
            State.values());
    private static final Param<String> TEXT =
            Param.text("text", "Only those whose name has this in it; * stands for any letters.", 100, "tide");
    private static final Param<String> NAME =
            Param.text("name", "Only those of this name; * stands for any letters.", 100, "tide-*");
    private static final Param<JobName> FOLLOWED_BY = new Param<>(
            "followedBy",
            "Only those that have this job as a follow-up: NAMESPACE/NAME.",
            Map.of("type", "string"),
            "harbour/tide-print",
            JobName::parse);
    private static final Param<JobName> AFTER = new Param<>(
            "after",
            "Only those behind this job, as the list is ordered: NAMESPACE/NAME.",
            Map.of("type", "string"),
            "harbour/buoy-check",
            JobName::parse);
    private static final Param<JobOrder> SORT =
            Param.word("sort", "By name, or those first that are due next; by name unless given.", JobOrder.values());
    private static final Param<Instant> AT = Param.instant(
            "at",
            "What became of the occurrence at that instant, or less than a minute before; how it stands now unless given.");
    private static final Param<ZoneId> ZONE =
            Param.zone("zone", "The zone in which sentences tell times; the job's own unless given.");

    private JobResources() {}

    static List<Operation> operations() {
        return List.of(
                Operation.get("/jobs", "listJobs", "Lists jobs.")
                        .takes(Shared.NAMESPACE, Shared.TAG, STATE, TEXT, NAME, FOLLOWED_BY, AFTER, SORT)
                        .takes(Call.AS_OF, Pages.LIMIT, Pages.CURSOR, Pages.FIELDS)
                        .answers(Answer.listOf("The jobs.", "job"))
                        .by(JobResources::list),
                Operation.get("/jobs/{namespace}/{job}", "readJob", "Reads a job as it stands, with its definition.")
                        .at(Shared.EXAMPLE_JOB)
                        .takes(Call.AS_OF, Pages.FIELDS)
                        .answers(Answer.of("The job.", "job"))
                        .by(call -> Reply.json(Pages.fields(call, Shared.job(call, call.job())))),
                Operation.get(
                                "/jobs/{namespace}/{job}/occurrences",
                                "listOccurrences",
                                "Lists what a job owes in a period, and what became of what is past.")
                        .says(
                                "What is past goes by the definition that was in force; what is to come by the one that is.")
                        .at(Shared.EXAMPLE_JOB)
                        .takes(Shared.FROM, Shared.UNTIL, Pages.LIMIT)
                        .answers(Answer.listOf("The occurrences, earliest first.", "occurrenceAndRun"))
                        .by(OccurrenceList::reply),
                Operation.get(
                                "/jobs/{namespace}/{job}/why",
                                "why",
                                "Says in a sentence why a job runs, waits or does nothing, or what became of an occurrence.")
                        .at(Shared.EXAMPLE_JOB)
                        .takes(AT, Call.AS_OF, ZONE)
                        .answers(Answer.of("The answer, and the facts that it rests on.", "why"))
                        .by(JobResources::why),
                Operation.get(
                                "/jobs/{namespace}/{job}/figures",
                                "readFigures",
                                "Says how the runs of a job went in a period: how they ended, how long they took, how late they began.")
                        .at(Shared.EXAMPLE_JOB)
                        .takes(Shared.FROM, Shared.UNTIL)
                        .answers(Answer.of("The figures.", "stats"))
                        .by(JobResources::figures));
    }

    private static Reply list(Call call) {
        JobFilter filter = JobFilter.first(Pages.limit(call) + 1)
                .within(call.namespaces(call.get(Shared.NAMESPACE).map(Set::of).orElse(Set.of())));
        filter = call.get(Shared.TAG).map(filter::withTag).orElse(filter);
        filter = call.get(TEXT).map(text -> "*" + text + "*").map(filter::named).orElse(filter);
        if (call.get(STATE).isPresent()) {
            filter = call.get(STATE).get() == State.FAILING ? filter.thatFail() : filter.thatArePaused();
        }
        if (call.get(TEXT).isPresent() && call.get(NAME).isPresent()) {
            throw Problem.ofParameter(TEXT.name(), "does not go together with name");
        }
        filter = call.get(NAME).map(filter::named).orElse(filter);
        filter = call.get(FOLLOWED_BY).map(filter::followedBy).orElse(filter);
        filter = call.get(AFTER).map(filter::after).orElse(filter);
        filter = call.get(SORT).map(filter::in).orElse(filter);
        filter = Pages.cursor(call, JobName::parse).map(filter::after).orElse(filter);
        return Pages.reply(
                call,
                call.jobs(filter),
                view -> Shared.job(call, view),
                view -> view.name().namespace() + "/" + view.name().name());
    }

    private static Reply why(Call call) {
        JobView view = call.job();
        Instant now = call.history().now();
        ZoneId zone = call.get(ZONE)
                .orElseGet(() -> view.job().schedules().isEmpty()
                        ? ZoneId.of("UTC")
                        : view.job().schedules().get(0).zone());
        Question question = new Question(call.history(), view, now, at -> TimeText.near(at, now, zone));
        Optional<Instant> then = call.get(AT);
        if (then.isPresent() && call.asOf().isPresent()) {
            throw Problem.ofParameter(
                    AT.name(),
                    "does not go together with asOf: what became of an occurrence is told as it is known now");
        }
        if (then.filter(at -> at.isAfter(now)).isPresent()) {
            throw Problem.ofParameter(
                    AT.name(),
                    then.get() + " is still to come; " + call.incoming().base() + "/api/v1/jobs/"
                            + view.name().namespace() + "/" + view.name().name()
                            + "/occurrences says what will be owed");
        }
        return Reply.json(
                InsightViews.answer(view.name(), then.map(question::about).orElseGet(question::aboutNow)));
    }

    private static Reply figures(Call call) {
        JobName name = call.job().name();
        Period period = Period.of(call, A_WEEK);
        return Reply.json(InsightViews.figures(PeriodFigures.of(
                call.history(), Optional.of(name), period.from(), period.until(), /* lineByLine= */ false)));
    }
}
