package dev.brume.jdbc;

import dev.brume.Grant;
import dev.brume.Role;
import dev.brume.history.SignInRow;
import dev.brume.history.TokenRow;
import dev.brume.spi.AccessSteps;
import java.sql.SQLException;
import java.time.Instant;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import java.util.TreeSet;

/** The steps on tokens and sign-ins, in SQL that every database understands. */
final class JdbcAccess implements AccessSteps {
    private static final String COLUMNS = "name, role_name, namespaces, added_at, added_by, until_at, revoked_at";

    private final Statements sql;
    private final Dialect dialect;

    JdbcAccess(Statements sql, Dialect dialect) {
        this.sql = sql;
        this.dialect = dialect;
    }

    /**
     * Who has signed in, and how it stands with the token behind it.
     *
     * @param token empty if there is none, or it is gone
     */
    record Found(SignInRow signIn, Optional<TokenRow> token) {
        /** A token that took the place of another one of its name is not the one that somebody signed in with. */
        boolean isGood(Instant now) {
            boolean stands = token.filter(
                            row -> row.isGood(now) && !row.addedAt().isAfter(signIn.begunAt()))
                    .isPresent();
            return now.isBefore(signIn.until()) && (signIn.token().isEmpty() || stands);
        }
    }

    static List<TokenRow> tokens(Statements sql) {
        return sql.query("select " + COLUMNS + " from brume_token order by name", JdbcAccess::token);
    }

    static Optional<TokenRow> token(Statements sql, String digest) {
        return sql.first("select " + COLUMNS + " from brume_token where digest = ?", JdbcAccess::token, digest);
    }

    static Optional<Found> signIn(Statements sql, String digest) {
        Optional<SignInRow> signIn = sql.first(
                "select who, role_name, namespaces, token, begun_at, until_at from brume_sign_in where digest = ?",
                row -> new SignInRow(
                        row.text("who"),
                        grant(row),
                        row.optionalText("token"),
                        row.instant("begun_at"),
                        row.instant("until_at")),
                digest);
        return signIn.map(found -> new Found(
                found,
                found.token()
                        .flatMap(name -> sql.first(
                                "select " + COLUMNS + " from brume_token where name = ?", JdbcAccess::token, name))));
    }

    private static TokenRow token(Row row) throws SQLException {
        return new TokenRow(
                row.text("name"),
                grant(row),
                row.instant("added_at"),
                row.text("added_by"),
                row.optionalInstant("until_at"),
                row.optionalInstant("revoked_at"));
    }

    private static Grant grant(Row row) throws SQLException {
        List<String> namespaces = Arrays.stream(row.text("namespaces").split(" "))
                .filter(name -> !name.isEmpty())
                .toList();
        return new Grant(Role.valueOf(row.text("role_name")), new TreeSet<>(namespaces));
    }

    private static String namespaces(Grant grant) {
        return String.join(" ", grant.namespaces());
    }

    @Override
    public Optional<TokenRow> lockToken(String name) {
        return sql.first("select " + COLUMNS + " from brume_token where name = ? for update", JdbcAccess::token, name);
    }

    @Override
    public boolean addToken(TokenRow token, String digest) {
        sql.update("delete from brume_token where name = ?", token.name());
        return sql.addUnlessThere(
                "insert into brume_token (" + COLUMNS + ", digest) values (?, ?, ?, ?, ?, ?, ?, ?)"
                        + dialect.unlessThere(),
                token.name(),
                token.grant().role(),
                namespaces(token.grant()),
                token.addedAt(),
                token.addedBy(),
                token.until(),
                token.revokedAt(),
                digest);
    }

    @Override
    public void revokeToken(String name, Instant at) {
        sql.update("update brume_token set revoked_at = ? where name = ?", at, name);
    }

    @Override
    public void signIn(SignInRow signIn, String digest) {
        sql.update(
                "insert into brume_sign_in (digest, who, role_name, namespaces, token, begun_at, until_at)"
                        + " values (?, ?, ?, ?, ?, ?, ?)",
                digest,
                signIn.who(),
                signIn.grant().role(),
                namespaces(signIn.grant()),
                signIn.token(),
                signIn.begunAt(),
                signIn.until());
    }

    @Override
    public boolean signOut(String digest) {
        return sql.update("delete from brume_sign_in where digest = ?", digest) > 0;
    }

    @Override
    public int forgetSignIns(Instant endedBefore) {
        return sql.update("delete from brume_sign_in where until_at < ?", endedBefore);
    }
}
