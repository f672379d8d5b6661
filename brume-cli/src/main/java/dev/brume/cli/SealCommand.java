package dev.brume.cli;

import dev.brume.cli.desk.Seen;
import dev.brume.definitions.InsightViews;
import dev.brume.definitions.JsonText;
import dev.brume.history.SealHead;
import dev.brume.internal.retention.RemovalNote;
import java.io.IOException;
import java.io.PrintWriter;
import java.nio.file.Files;
import java.nio.file.InvalidPathException;
import java.nio.file.Path;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.Callable;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;

/** Seals the record, and checks it against its seals. */
@Command(
        name = "seal",
        mixinStandardHelpOptions = true,
        description =
                "Seals all that is on record and not sealed yet: the ledger with what runs printed, spans, the change log and definitions."
                        + " brume seal verify reports any later change. From the first time on, instances go on sealing by themselves, every ten minutes.",
        subcommands = {SealCommand.Head.class, SealCommand.Verifying.class},
        footerHeading = "%nExamples:%n",
        footer = {
            "  brume seal",
            "  brume seal head > /elsewhere/head-2026-11.txt",
            "  brume seal verify --head /elsewhere/head-2026-11.txt"
        })
final class SealCommand implements Callable<Integer> {
    @Mixin
    private OrderOptions options;

    @Mixin
    private LookOptions look;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() {
        SealHead head = options.order(desk -> desk.seal());
        PrintWriter out = spec.commandLine().getOut();
        if (look.json()) {
            out.println(JsonText.pretty(InsightViews.sealHead(head)));
        } else if (head.number() == 0) {
            out.println("nothing is on record yet");
        } else {
            out.println("sealed; the newest seal is " + line(head));
        }
        return ExitCode.OK;
    }

    private static String line(SealHead head) {
        return head.number() + ":" + head.digest();
    }

    /** Prints the head. */
    @Command(
            name = "head",
            mixinStandardHelpOptions = true,
            description =
                    "Prints the newest seal's number and digest, to be kept where nobody who can write to the database can: only"
                            + " what was kept elsewhere shows that all seals were made anew.")
    static final class Head implements Callable<Integer> {
        @Mixin
        private WhereOptions options;

        @Mixin
        private LookOptions look;

        @Spec
        private CommandSpec spec;

        @Override
        public Integer call() {
            SealHead head = options.look(history -> history.sealHead());
            PrintWriter out = spec.commandLine().getOut();
            if (look.json()) {
                out.println(JsonText.pretty(InsightViews.sealHead(head)));
                return ExitCode.OK;
            }
            if (head.number() == 0) {
                spec.commandLine().getErr().println("brume: nothing is sealed yet; begin with brume seal");
                return ExitCode.NOT_FOUND;
            }
            out.println(line(head));
            return ExitCode.OK;
        }
    }

    /** Checks. */
    @Command(
            name = "verify",
            mixinStandardHelpOptions = true,
            description =
                    "Computes all seals again, and names the first line that was altered, added or removed since. Changes nothing.",
            footerHeading = "%nExit codes: 0 all is as it was sealed, 1 it is not, or nothing is sealed.%n%nExample:%n",
            footer = "  brume seal verify --head 17:5f0c... ")
    static final class Verifying implements Callable<Integer> {
        private static final int MOST_REMOVALS = 20;
        private static final Pattern HEAD = Pattern.compile("(\\d{1,18}):([0-9a-f]{64})");

        @Option(
                names = "--head",
                paramLabel = "FILE|N:DIGEST",
                description = "A head that was kept elsewhere, as brume seal head printed it.")
        private @Nullable String head;

        @Mixin
        private WhereOptions options;

        @Mixin
        private LookOptions look;

        @Spec
        private CommandSpec spec;

        @Override
        public Integer call() {
            Optional<String> kept = Optional.ofNullable(head).map(Verifying::kept);
            Seen result = options.ask(at -> at.sealCheck(kept));
            PrintWriter out = spec.commandLine().getOut();
            if (look.json()) {
                out.println(JsonText.pretty(result.whole()));
            } else {
                print(result, kept.isPresent(), out);
            }
            return !result.has("problem") && result.number("seals") > 0 ? ExitCode.OK : ExitCode.NOT_FOUND;
        }

        /** Whose content is gone, and who had it erased. */
        private void printErasures(List<Seen> erasures, boolean kept, PrintWriter out) {
            if (erasures.isEmpty()) {
                return;
            }
            out.println();
            out.println("Erased by order" + (kept ? " since the head that was kept:" : ":"));
            erasures.stream()
                    .limit(MOST_REMOVALS)
                    .forEach(erasure -> printNote(
                            erasure,
                            "run " + erasure.text("run") + ": " + erasure.text("erased") + ", by " + erasure.text("who")
                                    + ": " + erasure.text("because"),
                            out));
            if (erasures.size() > MOST_REMOVALS) {
                out.println("... and " + (erasures.size() - MOST_REMOVALS) + " more (brume changes --kind ERASED)");
            }
        }

        /** Who removed what, and when: a person decides whether it was theirs to. */
        private void printRemovals(List<Seen> removals, boolean kept, PrintWriter out) {
            if (removals.isEmpty()) {
                return;
            }
            out.println();
            out.println("Removed by retention" + (kept ? " since the head that was kept:" : ":"));
            removals.stream()
                    .limit(MOST_REMOVALS)
                    .forEach(removal -> printNote(
                            removal,
                            RemovalNote.brief(removal.text("text"))
                                    + removal.maybe("job")
                                            .map(job -> " of " + job)
                                            .orElse("")
                                    + ", by " + removal.text("who") + " from " + removal.text("host"),
                            out));
            if (removals.size() > MOST_REMOVALS) {
                out.println("... and " + (removals.size() - MOST_REMOVALS) + " more (brume changes --kind REMOVED)");
            }
        }

        private void printNote(Seen about, String text, PrintWriter out) {
            Wrap.lines(
                            Times.withOffset(about.instant("at"), look.viewerZone()) + "  " + text
                                    + about.maybe("doubt")
                                            .map(why -> "  NOT BELIEVED: " + why)
                                            .orElse(""),
                            look.width(),
                            9)
                    .forEach(out::println);
        }

        private void print(Seen result, boolean kept, PrintWriter out) {
            Palette palette = look.palette();
            String checked = DiffPrinter.count(result.number("seals"), "seal") + " computed again, over "
                    + DiffPrinter.count(result.number("lines"), "ledger line") + ", "
                    + DiffPrinter.count(result.number("changes"), "line") + " of the change log, "
                    + DiffPrinter.count(result.number("spans"), "span") + " and "
                    + DiffPrinter.count(result.number("definitions"), "version") + " of definitions"
                    + (result.number("removed") == 0
                            ? ""
                            : "; retention has removed " + result.number("removed") + " of them since");
            if (result.has("problem")) {
                Wrap.lines(palette.word("PROBLEM") + "  " + result.text("problem"), look.width(), 9)
                        .forEach(out::println);
                Wrap.lines(palette.faint(checked + " up to there"), look.width(), 0)
                        .forEach(out::println);
                printRemovals(result.list("removals"), kept, out);
                printErasures(result.list("erasures"), kept, out);
                return;
            }
            if (result.number("seals") == 0) {
                out.println("nothing is sealed yet; begin with brume seal");
                return;
            }
            out.println("All is as it was sealed.");
            Wrap.lines(
                            checked + "; " + DiffPrinter.count(result.number("unsealed"), "ledger line")
                                    + " not sealed yet; head "
                                    + result.text("head").substring(0, 20) + "..."
                                    + (kept ? ", and the one that was kept is among them" : ""),
                            look.width(),
                            0)
                    .forEach(out::println);
            printRemovals(result.list("removals"), kept, out);
            printErasures(result.list("erasures"), kept, out);
        }

        private static String kept(String text) {
            String read = text;
            try {
                if (!HEAD.matcher(text).matches()) {
                    read = Files.readString(Path.of(text)).strip();
                }
            } catch (IOException | InvalidPathException e) {
                throw new UsageException(
                        "--head '" + text + "' is neither a head (expected N:DIGEST) nor a file that can be read");
            }
            Matcher head = HEAD.matcher(read);
            if (!head.matches()) {
                throw new UsageException("--head: '" + read.lines().findFirst().orElse("") + "' in " + text
                        + " is no head (expected N:DIGEST, as brume seal head prints it)");
            }
            return head.group();
        }
    }
}
