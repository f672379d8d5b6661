package dev.brume.cli;

import dev.brume.cli.desk.Desk;
import dev.brume.history.RunView;
import java.util.Optional;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;

/** Runs once more what an ended run was owed to. */
@Command(
        name = "rerun",
        mixinStandardHelpOptions = true,
        description =
                "Runs once more what ended runs were owed to: the same planned time and payload, under the definition in"
                        + " force. Of many, those that were rerun already are left as they are.",
        footerHeading = "%nExamples:%n",
        footer = {
            "  brume rerun 17 --because 'the feed was late'",
            "  brume rerun --job tide-print --outcome failed --from 6h",
            "  brume rerun --job tide-print --outcome failed --from 6h --yes --because 'there is ink again'"
        })
final class RerunCommand implements Callable<Integer> {
    @Mixin
    private ManyRuns which;

    @Mixin
    private OrderOptions options;

    @Mixin
    private OrderReport report;

    @Override
    public Integer call() {
        Optional<Long> one = which.run();
        return options.order(
                desk -> one.isPresent() ? rerun(desk, one.get()) : which.order(desk, report, "rerun", Desk.Bulk.RERUN));
    }

    private int rerun(Desk desk, long run) {
        RunView rerun = desk.history().run(desk.rerun(run)).orElseThrow();
        return report.done(
                "ordered run " + rerun.id() + ", which reruns run " + run,
                "run",
                rerun.id(),
                "job",
                rerun.job(),
                "rerunOf",
                run);
    }
}
