package dev.brume.http.internal.resource;

import dev.brume.Grant;
import dev.brume.NewToken;
import dev.brume.Role;
import dev.brume.definitions.Views;
import dev.brume.http.internal.web.Answer;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Member;
import dev.brume.http.internal.web.Operation;
import dev.brume.http.internal.web.Pages;
import dev.brume.http.internal.web.Reply;
import dev.brume.internal.document.Fields;
import java.time.Duration;
import java.time.Instant;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** Tokens: made, listed, revoked. */
final class TokenResources {
    private static final Map<String, Role> ROLES = new LinkedHashMap<>();

    static {
        Arrays.stream(Role.values()).forEach(role -> ROLES.put(role.word(), role));
    }

    private TokenResources() {}

    static List<Operation> operations() {
        return List.of(
                Operation.get("/tokens", "listTokens", "Lists tokens, without their secrets.")
                        .needs(Role.ADMIN)
                        .everywhere()
                        .takes(Pages.FIELDS)
                        .answers(Answer.listOf("The tokens.", "token"))
                        .by(call -> {
                            Instant now = call.history().now();
                            return Pages.all(call, call.history().tokens(), token -> Views.token(token, now));
                        }),
                Operation.of(
                                "POST",
                                "/tokens",
                                "addToken",
                                "Makes a token; its secret is told in this answer and never again.")
                        .needs(Role.ADMIN)
                        .everywhere()
                        .sends(
                                Map.of(
                                        "name",
                                        "quay-bot",
                                        "role",
                                        "operator",
                                        "namespaces",
                                        List.of("harbour"),
                                        "for",
                                        "90d"),
                                Member.text("name", "What it is called, and who its holder is in the change log.")
                                        .needed(),
                                Member.word("role", "What it lets do.", List.copyOf(ROLES.keySet()))
                                        .needed(),
                                Member.texts("namespaces", "Where; everywhere unless given."),
                                Member.text("for", "For how long, such as 90d; for ever unless given."),
                                Member.BECAUSE)
                        .answers(Answer.of("The token with its secret.", "newToken")
                                .with(201))
                        .by(TokenResources::add),
                Operation.of(
                                "DELETE",
                                "/tokens/{token}",
                                "revokeToken",
                                "Revokes a token, within a second on every instance.")
                        .needs(Role.ADMIN)
                        .everywhere()
                        .at("token", "quay-bot")
                        .sends(Map.of("because", "the robot is sold"), Member.BECAUSE)
                        .answers(Answer.nothing("It lets nobody in any more."))
                        .by(call -> {
                            call.body();
                            call.check();
                            call.orders().revokeToken(call.place("token"));
                            return Reply.nothing(204);
                        }));
    }

    private static Reply add(Call call) {
        Fields body = call.body();
        Optional<String> name = body.text("name");
        Optional<Role> role = body.word("role", ROLES);
        Optional<List<String>> namespaces = body.texts("namespaces");
        Optional<Duration> length = body.duration("for");
        Optional<Grant> grant = role.flatMap(given -> namespaces.isPresent()
                ? body.read("namespaces", () -> Grant.within(namespaces.get(), given))
                : Optional.of(Grant.everywhere(given)));
        call.check();
        NewToken token = call.orders().addToken(name.orElseThrow(), grant.orElseThrow(), length);
        return Reply.json(
                201,
                Views.object(
                        "token", token.name(),
                        "role", token.grant().role(),
                        "namespaces",
                                token.grant().isEverywhere()
                                        ? null
                                        : List.copyOf(token.grant().namespaces()),
                        "until", token.until(),
                        "secret", token.secret()));
    }
}
