package dev.brume.cli;

import dev.brume.history.NoticeRow;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Parameters;

/** Sends a notice again. */
@Command(
        name = "again",
        mixinStandardHelpOptions = true,
        description = "Sends a notice again that was not delivered, under its id, for as long as its channel says.")
final class NoticesAgainCommand implements Callable<Integer> {
    @Parameters(paramLabel = "NOTICE", description = "Its id, as 'brume notices' lists it.")
    private String notice;

    @Mixin
    private OrderOptions options;

    @Mixin
    private OrderReport report;

    @Override
    public Integer call() {
        NoticeRow row = options.order(desk -> desk.sendAgain(notice));
        return report.done(
                "'" + row.notice().title() + "' is sent to " + row.notice().channel() + " again, until "
                        + row.giveUpAt(),
                "notice",
                row.notice().id(),
                "giveUpAt",
                row.giveUpAt());
    }
}
