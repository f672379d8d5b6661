package dev.brume.memory;

import dev.brume.history.SignInRow;
import dev.brume.history.TokenRow;
import dev.brume.spi.AccessSteps;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** The steps on tokens and sign-ins, on maps. */
final class MemoryAccess implements AccessSteps {
    private final Tables tables;

    /** A token and the digest of its secret. */
    record Token(TokenRow row, String digest) {}

    MemoryAccess(Tables tables) {
        this.tables = tables;
    }

    List<TokenRow> tokens() {
        return tables.tokens.values().stream().map(Token::row).toList();
    }

    Optional<TokenRow> token(String digest, Instant now) {
        return tables.tokens.values().stream()
                .filter(token -> token.digest.equals(digest) && token.row.isGood(now))
                .map(Token::row)
                .findFirst();
    }

    /** A token that took the place of another one of its name is not the one that somebody signed in with. */
    Optional<SignInRow> signIn(String digest, Instant now) {
        return Optional.ofNullable(tables.signIns.get(digest))
                .filter(signIn -> now.isBefore(signIn.until()))
                .filter(signIn -> signIn.token().isEmpty()
                        || Optional.ofNullable(tables.tokens.get(signIn.token().get()))
                                .filter(token -> token.row.isGood(now)
                                        && !token.row.addedAt().isAfter(signIn.begunAt()))
                                .isPresent());
    }

    @Override
    public Optional<TokenRow> lockToken(String name) {
        return Optional.ofNullable(tables.tokens.get(name)).map(Token::row);
    }

    @Override
    public boolean addToken(TokenRow token, String digest) {
        tables.put(tables.tokens, token.name(), new Token(token, digest));
        return true;
    }

    @Override
    public void revokeToken(String name, Instant at) {
        Token token = Tables.row(tables.tokens, name);
        TokenRow row = token.row;
        TokenRow revoked =
                new TokenRow(row.name(), row.grant(), row.addedAt(), row.addedBy(), row.until(), Optional.of(at));
        tables.put(tables.tokens, name, new Token(revoked, token.digest));
    }

    @Override
    public void signIn(SignInRow signIn, String digest) {
        tables.put(tables.signIns, digest, signIn);
    }

    @Override
    public boolean signOut(String digest) {
        boolean there = tables.signIns.containsKey(digest);
        tables.remove(tables.signIns, digest);
        return there;
    }

    @Override
    public int forgetSignIns(Instant endedBefore) {
        List<String> old = tables.signIns.entrySet().stream()
                .filter(each -> each.getValue().until().isBefore(endedBefore))
                .map(Map.Entry::getKey)
                .toList();
        old.forEach(digest -> tables.remove(tables.signIns, digest));
        return old.size();
    }
}
