package dev.brume.cli;

import dev.brume.cli.desk.BulkAnswer;
import dev.brume.cli.desk.Desk;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** One run, or many that a filter chooses: those are shown first, and the order is given with --yes. */
final class ManyRuns {
    private static final int SHOWN = 20;

    @Parameters(arity = "0..1", paramLabel = "RUN", description = "The run's id, as brume runs lists it.")
    private @Nullable Long run;

    @Mixin
    private RunFilterOptions which;

    @Option(
            names = "--most",
            paramLabel = "N",
            defaultValue = "1000",
            description = "Of many, the newest so many, at most 10000. Default: ${DEFAULT-VALUE}.")
    private int most;

    @Option(names = "--yes", description = "Of many: give the order. Without it they are shown.")
    private boolean yes;

    /** {@return the one run that is meant; empty if many are, by what they have in common} */
    Optional<Long> run() {
        boolean filtered = which.areGiven();
        if (run != null && filtered) {
            throw new UsageException("name one run, or say by options which are meant, not both");
        }
        if (run == null && !filtered) {
            throw new UsageException(
                    "name a run, or say which are meant: --job, --outcome, --from, --error, ... (see --help)");
        }
        return Optional.ofNullable(run);
    }

    /**
     * Shows, or orders.
     *
     * @param verb what is done to each, such as {@code rerun}
     */
    int order(Desk desk, OrderReport report, String verb, Desk.Bulk what) {
        RunFilter filter = which.filter(most, ZoneOffset.UTC, desk.history().now());
        if (most < 1 || most > 10_000) {
            throw new UsageException("--most " + most + " is outside 1 to 10000");
        }
        return yes ? ordered(report, verb, desk.orderAll(what, filter)) : shown(report, verb, desk.meant(what, filter));
    }

    private static int shown(OrderReport report, String verb, List<RunView> found) {
        found.stream().limit(SHOWN).forEach(view -> report.meanwhile("  " + line(view)));
        if (found.size() > SHOWN) {
            report.meanwhile("  and " + (found.size() - SHOWN) + " more");
        }
        return report.done(
                found.isEmpty()
                        ? "no such run can be " + verb
                        : count(found.size()) + " would be " + verb + "; give the order with --yes",
                "runs",
                found.stream().map(view -> Long.toString(view.id())).toList());
    }

    private static String line(RunView view) {
        String how = view.outcome()
                .map(Enum::name)
                .or(() -> view.state().map(Enum::name))
                .orElse("");
        return view.id() + "  " + view.job() + "  " + view.owed().planned() + "  " + how
                + view.reason().map(reason -> " " + reason).orElse("");
    }

    private static String count(int runs) {
        return runs + (runs == 1 ? " run" : " runs");
    }

    private static int ordered(OrderReport report, String verb, BulkAnswer done) {
        Function<Long, String> why =
                run -> "  run " + run + " is left: " + done.left().get(run);
        done.left().keySet().stream().limit(SHOWN).forEach(run -> report.meanwhile(why.apply(run)));
        if (done.left().size() > SHOWN) {
            report.meanwhile("  and " + (done.left().size() - SHOWN) + " more are left");
        }
        return report.done(
                count(done.done().size()) + " " + verb
                        + (done.left().isEmpty() ? "" : ", " + done.left().size() + " left"),
                "runs",
                done.done().stream().map(String::valueOf).toList(),
                "left",
                done.left().entrySet().stream()
                        .map(each -> JsonOut.object("run", each.getKey(), "why", each.getValue()))
                        .toList());
    }
}
