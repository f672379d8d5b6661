package dev.brume.cli;

import dev.brume.definitions.InsightViews;
import dev.brume.definitions.JsonText;
import dev.brume.history.Change;
import dev.brume.history.Erasure;
import dev.brume.history.SealHead;
import dev.brume.history.SealedKind;
import dev.brume.insight.seal.CheckedErasure;
import dev.brume.insight.seal.Removal;
import dev.brume.insight.seal.SealCheck;
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
        SealHead head = options.order(desk -> desk.orders().seal());
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
        private StoreOptions options;

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
        private StoreOptions options;

        @Mixin
        private LookOptions look;

        @Spec
        private CommandSpec spec;

        @Override
        public Integer call() {
            Optional<SealCheck.Kept> kept = Optional.ofNullable(head).map(Verifying::kept);
            SealCheck.Result result = options.look(history -> SealCheck.of(history, kept));
            PrintWriter out = spec.commandLine().getOut();
            if (look.json()) {
                out.println(JsonText.pretty(InsightViews.sealCheck(result)));
            } else {
                print(result, kept.isPresent(), out);
            }
            return result.problem().isEmpty() && result.seals() > 0 ? ExitCode.OK : ExitCode.NOT_FOUND;
        }

        /** Whose content is gone, and who had it erased. */
        private void printErasures(List<CheckedErasure> erasures, boolean kept, PrintWriter out) {
            if (erasures.isEmpty()) {
                return;
            }
            out.println();
            out.println("Erased by order" + (kept ? " since the head that was kept:" : ":"));
            erasures.stream().limit(MOST_REMOVALS).forEach(checked -> {
                Erasure erasure = checked.erasure();
                Wrap.lines(
                                Times.withOffset(erasure.at(), look.viewerZone()) + "  run " + erasure.run() + ": "
                                        + erasure.content().words() + ", by " + erasure.who() + ": " + erasure.because()
                                        + checked.doubt()
                                                .map(why -> "  NOT BELIEVED: " + why)
                                                .orElse(""),
                                look.width(),
                                9)
                        .forEach(out::println);
            });
            if (erasures.size() > MOST_REMOVALS) {
                out.println("... and " + (erasures.size() - MOST_REMOVALS) + " more (brume changes --kind ERASED)");
            }
        }

        /** Who removed what, and when: a person decides whether it was theirs to. */
        private void printRemovals(List<Removal> removals, boolean kept, PrintWriter out) {
            if (removals.isEmpty()) {
                return;
            }
            out.println();
            out.println("Removed by retention" + (kept ? " since the head that was kept:" : ":"));
            removals.stream().limit(MOST_REMOVALS).forEach(removal -> {
                Change change = removal.line().change();
                String job = change.job().map(key -> " of " + key).orElse("");
                Wrap.lines(
                                Times.withOffset(removal.line().at(), look.viewerZone()) + "  "
                                        + RemovalNote.brief(change.text()) + job + ", by " + change.who()
                                        + " from " + change.host()
                                        + removal.doubt()
                                                .map(why -> "  NOT BELIEVED: " + why)
                                                .orElse(""),
                                look.width(),
                                9)
                        .forEach(out::println);
            });
            if (removals.size() > MOST_REMOVALS) {
                out.println("... and " + (removals.size() - MOST_REMOVALS) + " more (brume changes --kind REMOVED)");
            }
        }

        private void print(SealCheck.Result result, boolean kept, PrintWriter out) {
            Palette palette = look.palette();
            String checked = DiffPrinter.count(result.seals(), "seal") + " computed again, over "
                    + DiffPrinter.count(result.count(SealedKind.LINE), "ledger line") + ", "
                    + DiffPrinter.count(result.count(SealedKind.CHANGE), "line") + " of the change log, "
                    + DiffPrinter.count(result.count(SealedKind.SPAN), "span") + " and "
                    + DiffPrinter.count(result.count(SealedKind.DEFINITION), "version") + " of definitions"
                    + (result.removed() == 0 ? "" : "; retention has removed " + result.removed() + " of them since");
            if (result.problem().isPresent()) {
                Wrap.lines(palette.word("PROBLEM") + "  " + result.problem().get(), look.width(), 9)
                        .forEach(out::println);
                Wrap.lines(palette.faint(checked + " up to there"), look.width(), 0)
                        .forEach(out::println);
                printRemovals(result.removals(), kept, out);
                printErasures(result.erasures(), kept, out);
                return;
            }
            if (result.seals() == 0) {
                out.println("nothing is sealed yet; begin with brume seal");
                return;
            }
            out.println("All is as it was sealed.");
            Wrap.lines(
                            checked + "; " + DiffPrinter.count(result.unsealed(), "ledger line")
                                    + " not sealed yet; head "
                                    + line(result.head()).substring(0, 20) + "..."
                                    + (kept ? ", and the one that was kept is among them" : ""),
                            look.width(),
                            0)
                    .forEach(out::println);
            printRemovals(result.removals(), kept, out);
            printErasures(result.erasures(), kept, out);
        }

        private static SealCheck.Kept kept(String text) {
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
            return new SealCheck.Kept(Long.parseLong(head.group(1)), head.group(2));
        }
    }
}
