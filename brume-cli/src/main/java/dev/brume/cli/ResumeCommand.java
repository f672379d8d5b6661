package dev.brume.cli;

import dev.brume.JobName;
import dev.brume.PauseChange;
import dev.brume.history.History;
import dev.brume.history.JobView;
import dev.brume.history.Pause;
import java.time.ZoneId;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;

/** Lifts a pause. */
@Command(
        name = "resume",
        mixinStandardHelpOptions = true,
        description =
                "Lifts the pause of a job, a tag, a namespace or everything. What was not owed meanwhile is decided as each job's"
                        + " ifMissed says, unless the pause leaves it out; the rest is recorded as one span. A job that another pause"
                        + " covers stays paused.",
        footerHeading = "%nExit codes:%n",
        footer = {
            "  0 resumed, 1 there is no such pause.",
            "",
            "Examples:",
            "  brume resume --tag nightly",
            "  brume resume --everything --planned --because 'the move is put off'"
        })
final class ResumeCommand implements Callable<Integer> {
    @Mixin
    private PauseScope which;

    @Option(
            names = "--planned",
            description = "Takes back the pauses of it that are planned and have not begun, instead.")
    private boolean planned;

    @Mixin
    private OrderOptions options;

    @Mixin
    private OrderReport report;

    @Spec
    private CommandSpec spec;

    /** What keeps the one job that is meant paused all the same. */
    private List<Pause> others(History history) {
        if (which.scope().kind() != Pause.Kind.JOB) {
            return List.of();
        }
        Optional<JobView> job = history.job(JobName.parse(which.scope().name()));
        return history.pauses().stream()
                .filter(pause -> pause.scope().kind() != Pause.Kind.JOB)
                .filter(pause -> job.filter(view ->
                                pause.scope().covers(view.name(), view.job().tags()))
                        .isPresent())
                .toList();
    }

    @Override
    public Integer call() {
        return planned ? takeBack() : resume();
    }

    private int takeBack() {
        int count = options.order(desk -> desk.takeBackPauses(which.scope()));
        String sentence = which.scope() + ": "
                + (count == 0
                        ? "no pause of it is planned"
                        : count + (count == 1 ? " planned pause is" : " planned pauses are") + " taken back");
        Object[] members = {"scope", which.scope(), "ordered", count > 0, "jobs", 0, "takenBack", count};
        return count == 0 ? report.notDone(sentence, members) : report.done(sentence, members);
    }

    private int resume() {
        int[] toCome = new int[1];
        PauseChange changed = options.order(desk -> {
            PauseChange done = desk.resume(which.scope());
            toCome[0] = (int) desk.history().plannedPauses().stream()
                    .filter(pause -> pause.scope().equals(which.scope()))
                    .count();
            others(desk.history())
                    .forEach(pause -> spec.commandLine()
                            .getErr()
                            .println("brume: " + which.scope() + " is paused with " + pause.scope() + " too, which "
                                    + pause.who()
                                    + " ordered at " + Times.withOffset(pause.since(), ZoneId.systemDefault())
                                    + (pause.because().isEmpty() ? "" : ", because: " + pause.because())
                                    + " (brume resume "
                                    + PauseScope.words(pause.scope())
                                    + ")"));
            return done;
        });
        boolean none = !changed.ordered() && changed.jobs() == 0;
        Object[] members = {"scope", which.scope(), "ordered", changed.ordered(), "jobs", changed.jobs()};
        return none
                ? report.notDone(which.scope() + " was not paused by itself" + planned(toCome[0]), members)
                : report.done(
                        which.scope() + " resumed: " + PauseScope.jobs(changed.jobs())
                                + (changed.jobs() == 1 ? " goes on" : " go on") + planned(toCome[0]),
                        members);
    }

    private String planned(int toCome) {
        return toCome == 0
                ? ""
                : "; " + toCome + (toCome == 1 ? " pause of it is" : " pauses of it are") + " planned (brume resume "
                        + PauseScope.words(which.scope()) + " --planned takes "
                        + (toCome == 1 ? "it" : "them") + " back)";
    }
}
