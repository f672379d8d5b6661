package dev.brume.cli;

import dev.brume.PauseChange;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;

/** Pauses jobs. */
@Command(
        name = "pause",
        mixinStandardHelpOptions = true,
        description =
                "Pauses a job, all jobs of a tag or of a namespace, or everything: they owe no runs until brume resume. Runs that there are go"
                        + " on; one-offs wait; brume run-now still works.",
        footerHeading = "%nExample:%n",
        footer = "  brume pause --tag nightly --because 'database moves'")
final class PauseCommand implements Callable<Integer> {
    @Mixin
    private PauseScope which;

    @Mixin
    private OrderOptions options;

    @Mixin
    private OrderReport report;

    @Override
    public Integer call() {
        PauseChange changed = options.order(desk -> desk.orders().pause(which.scope()));
        String jobs =
                PauseScope.jobs(changed.jobs()) + (changed.jobs() == 1 ? " owes" : " owe") + " nothing until resumed";
        String covered = changed.jobs() > 0 ? jobs : "no job comes under it that was not paused already";
        return report.done(
                which.scope() + (changed.ordered() ? " paused: " : " was paused before: ") + covered,
                "scope",
                which.scope(),
                "ordered",
                changed.ordered(),
                "jobs",
                changed.jobs());
    }
}
