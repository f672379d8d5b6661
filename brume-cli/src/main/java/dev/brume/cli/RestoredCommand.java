package dev.brume.cli;

import dev.brume.Orders;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;

/** Says that the database was restored from a copy. */
@Command(
        name = "restored",
        mixinStandardHelpOptions = true,
        description =
                "Says that the database was restored from a backup: raises the epoch, so that nothing that ran when"
                        + " the backup was taken can end a run any more. Run it before the first instance starts on the restored"
                        + " database. PostgreSQL tells by itself; doing it once more does no harm.",
        footerHeading = "%nExample:%n",
        footer = "  brume restored --database \"jdbc:mariadb://db/harbour?user=brume\"")
final class RestoredCommand implements Callable<Integer> {
    @Mixin
    private OrderOptions options;

    @Mixin
    private OrderReport report;

    @Override
    public Integer call() {
        long epoch = options.orderAtDatabase(Orders::databaseWasRestored);
        return report.done(
                "epoch " + epoch + ": fences from now on are higher than any given out before", "epoch", epoch);
    }
}
