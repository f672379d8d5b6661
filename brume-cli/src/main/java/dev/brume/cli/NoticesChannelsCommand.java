package dev.brume.cli;

import dev.brume.definitions.JsonText;
import dev.brume.definitions.Views;
import dev.brume.history.TellingRow;
import dev.brume.notice.Channel;
import dev.brume.notice.NoticeKind;
import dev.brume.notice.NoticeRule;
import dev.brume.notice.Way;
import dev.brume.schedule.Durations;
import java.io.PrintWriter;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Spec;

/** Lists channels and rules of notices. */
@Command(
        name = "channels",
        mixinStandardHelpOptions = true,
        description =
                "Lists the channels that notices go to, and the rules that say what goes there; never their secrets.")
final class NoticesChannelsCommand implements Callable<Integer> {
    @Mixin
    private WhereOptions options;

    @Mixin
    private LookOptions look;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() {
        List<TellingRow> found = options.look(history -> history.tellings());
        PrintWriter out = spec.commandLine().getOut();
        if (look.json()) {
            out.println(JsonText.pretty(found.stream().map(Views::telling).toList()));
            return ExitCode.OK;
        }
        if (found.stream().allMatch(row -> row.telling().isEmpty())) {
            out.println("Nothing is told to anybody: no file and no application has defined channels.");
            return ExitCode.OK;
        }
        Table channels =
                new Table(look).column("CHANNEL").column("GOES TO").fold().column("DEFINED BY");
        found.forEach(row -> row.telling()
                .channels()
                .forEach(channel -> channels.row(channel.name(), whereto(channel), row.source())));
        channels.lines().forEach(out::println);
        Table rules = new Table(look)
                .column("NOTICES")
                .column("TELLS")
                .fold()
                .column("TO")
                .column("DEFINED BY");
        found.forEach(row -> row.telling()
                .rules()
                .forEach(rule -> rules.row(rule.name(), what(rule), String.join(", ", rule.to()), row.source())));
        out.println();
        rules.lines().forEach(out::println);
        return ExitCode.OK;
    }

    private static String whereto(Channel channel) {
        Way way = channel.way();
        String where;
        if (way instanceof Way.Webhook hook) {
            where = hook.url()
                    + (hook.secret().isPresent() ? ", signed" : "")
                    + (hook.batch() > 1 ? ", up to " + hook.batch() + " at once" : "");
        } else if (way instanceof Way.Mail mail) {
            where = String.join(", ", mail.to()) + " by " + mail.server();
        } else if (way instanceof Way.Program program) {
            where = "the program " + program.command().get(0);
        } else if (way instanceof Way.Code code) {
            where = "code of an application, " + code.receiver();
        } else {
            where = "the log";
        }
        String quiet = channel.quiet()
                .map(times -> times.from()
                        .map(from ->
                                ", quiet from " + from + " to " + times.until().orElseThrow())
                        .orElse(", quiet on " + times.days().orElseThrow()))
                .orElse("");
        return where + quiet;
    }

    private static String what(NoticeRule rule) {
        List<String> parts =
                new ArrayList<>(rule.kinds().stream().map(NoticeKind::word).toList());
        rule.failedInARow().ifPresent(count -> parts.add("failed " + count + " in a row"));
        rule.skippedInARow().ifPresent(count -> parts.add("skipped " + count + " in a row"));
        rule.late().ifPresent(by -> parts.add("late by " + Durations.format(by)));
        rule.tookLonger().ifPresent(than -> parts.add("took longer than " + Durations.format(than)));
        rule.tookLongerThanUsual().ifPresent(percent -> parts.add("took longer than " + percent + " % of its past"));
        String of = rule.of().isAll()
                ? rule.isOfCluster() ? " of all" : " of " + rule.namespace()
                : " of "
                        + String.join(
                                ", ",
                                java.util.stream.Stream.concat(
                                                rule.of().jobs().stream().map(Object::toString),
                                                rule.of().tags().stream().map(tag -> "tag " + tag))
                                        .sorted()
                                        .toList());
        return String.join(", ", parts) + of;
    }
}
