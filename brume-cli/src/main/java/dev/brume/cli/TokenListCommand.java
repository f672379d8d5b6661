package dev.brume.cli;

import dev.brume.definitions.JsonText;
import dev.brume.definitions.Views;
import dev.brume.history.TokenRow;
import java.io.PrintWriter;
import java.time.Instant;
import java.util.List;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Spec;

/** Lists tokens. */
@Command(
        name = "list",
        mixinStandardHelpOptions = true,
        description = "Lists tokens by name, those that let nobody in any more too; never their secrets.")
final class TokenListCommand implements Callable<Integer> {
    @Mixin
    private WhereOptions options;

    @Mixin
    private LookOptions look;

    @Spec
    private CommandSpec spec;

    private record Found(List<TokenRow> tokens, Instant now) {}

    @Override
    public Integer call() {
        Found found = options.look(history -> new Found(history.tokens(), history.now()));
        PrintWriter out = spec.commandLine().getOut();
        if (look.json()) {
            out.println(JsonText.pretty(found.tokens.stream()
                    .map(token -> Views.token(token, found.now))
                    .toList()));
            return ExitCode.OK;
        }
        if (found.tokens.isEmpty()) {
            out.println("There is no token; over HTTP only this machine is answered.");
            return ExitCode.OK;
        }
        Table table = new Table(look)
                .column("TOKEN")
                .column("MAY")
                .fold()
                .column("STATE")
                .column("ADDED")
                .column("BY");
        found.tokens.forEach(token -> table.row(
                token.name(),
                token.grant(),
                state(token, found.now),
                Times.relative(token.addedAt(), found.now),
                token.addedBy()));
        table.lines().forEach(out::println);
        return ExitCode.OK;
    }

    private static String state(TokenRow token, Instant now) {
        if (token.revokedAt().isPresent()) {
            return "REVOKED " + Times.relative(token.revokedAt().get(), now);
        }
        return token.until()
                .map(end -> (token.isGood(now) ? "ends " : "ENDED ") + Times.relative(end, now))
                .orElse("good");
    }
}
