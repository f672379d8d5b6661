package dev.brume.cli;

import dev.brume.cli.desk.Lookout;
import dev.brume.cli.desk.Server;
import dev.brume.cli.desk.ServerLookout;
import dev.brume.cli.desk.StoreLookout;
import dev.brume.history.History;
import java.io.IOException;
import java.net.URI;
import java.net.URISyntaxException;
import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermission;
import java.util.EnumSet;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import javax.net.ssl.SSLContext;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.ParseResult;
import picocli.CommandLine.Spec;

/** Where a command looks or gives orders: in a database, or at a server over HTTP. */
final class WhereOptions {
    private static final String TOKEN = "BRUME_TOKEN";

    @Mixin
    private StoreOptions store;

    @Option(
            names = "--server",
            paramLabel = "URL",
            defaultValue = "${env:BRUME_SERVER}",
            description =
                    "Asks a server over HTTP instead of a database, such as https://quay-4:8480. What lets in is in the"
                            + " variable BRUME_TOKEN or in --token-file. Environment: BRUME_SERVER.")
    private @Nullable String server;

    @Option(
            names = "--token-file",
            paramLabel = "FILE",
            defaultValue = "${env:BRUME_TOKEN_FILE}",
            description =
                    "A file that nobody but its owner can read, with the token for --server, such as the http-key of a"
                            + " start. Environment: BRUME_TOKEN_FILE.")
    private @Nullable String tokenFile;

    @Option(
            names = "--trust",
            paramLabel = "FILE",
            defaultValue = "${env:BRUME_TRUST}",
            description =
                    "Certificates in PEM that are trusted at --server, instead of those that Java trusts. Environment:"
                            + " BRUME_TRUST.")
    private @Nullable String trust;

    @Spec(Spec.Target.MIXEE)
    private CommandSpec spec;

    private boolean isGiven(String option) {
        ParseResult given = spec.commandLine().getParseResult();
        return given != null && given.hasMatchedOption(option);
    }

    /** {@return the server that is asked; empty if it is a database} */
    Optional<Server> server() {
        boolean named = isGiven("--server");
        boolean database = isGiven("--database") || isGiven("--data");
        if (named && database) {
            throw new UsageException("--server asks a server, --database and --data a database: give one of them");
        }
        // What is said on the command line goes before what variables say.
        if (database || server == null || server.isBlank()) {
            return Optional.empty();
        }
        return Optional.of(new Server(address(server), token(), certificates()));
    }

    private static URI address(String text) {
        try {
            URI uri = new URI(text);
            boolean web = "http".equals(uri.getScheme()) || "https".equals(uri.getScheme());
            if (web && uri.getHost() != null && uri.getQuery() == null && uri.getUserInfo() == null) {
                return uri;
            }
        } catch (URISyntaxException e) {
            throw new UsageException("--server '" + text + "' is no address: " + e.getReason());
        }
        throw new UsageException("--server '" + text + "' is not the address of a server (expected http://host:port or"
                + " https://host:port, with the path that it is mounted at)");
    }

    private Optional<String> token() {
        String variable = System.getenv(TOKEN);
        if (tokenFile == null || tokenFile.isBlank()) {
            return Optional.ofNullable(variable).map(String::strip).filter(text -> !text.isEmpty());
        }
        Path file = Path.of(tokenFile);
        try {
            if (Files.getFileStore(file).supportsFileAttributeView("posix")) {
                Set<PosixFilePermission> others = EnumSet.copyOf(Files.getPosixFilePermissions(file));
                others.removeAll(Set.of(
                        PosixFilePermission.OWNER_READ,
                        PosixFilePermission.OWNER_WRITE,
                        PosixFilePermission.OWNER_EXECUTE));
                if (!others.isEmpty()) {
                    throw new UsageException(
                            "--token-file " + file + " can be read by others than its owner (chmod 600 " + file
                                    + "), so it may be known by now");
                }
            }
            return Optional.of(Files.readString(file).strip()).filter(text -> !text.isEmpty());
        } catch (NoSuchFileException e) {
            throw new UsageException("--token-file: there is no file " + file);
        } catch (IOException e) {
            throw new UsageException("--token-file " + file + " cannot be read: " + e.getMessage());
        }
    }

    private Optional<SSLContext> certificates() {
        return trust == null || trust.isBlank() ? Optional.empty() : Optional.of(Certificates.trusted(Path.of(trust)));
    }

    /** {@return the database, for what is not done over HTTP} */
    StoreOptions database() {
        if (server().isPresent()) {
            throw new UsageException(
                    "this is done at the database itself, and not over HTTP: give --database or --data");
        }
        return store;
    }

    /** {@return the database that is meant where no server is} */
    StoreOptions store() {
        return store;
    }

    /** {@return whether there is something to look at} */
    boolean isThere() {
        return server().isPresent() || store.isThere();
    }

    /** Looks at what is on record. */
    <T> T look(Function<History, T> looking) {
        return ask(at -> looking.apply(at.history()));
    }

    /** Looks at what is on record, a single time. */
    <T> T lookOnce(Function<History, T> looking) {
        Optional<Server> asked = server();
        return asked.isPresent() ? looking.apply(new ServerLookout(asked.get()).history()) : store.lookOnce(looking);
    }

    /** Looks at what is on record, and at what is worked out of it. */
    <T> T ask(Function<Lookout, T> asking) {
        Optional<Server> asked = server();
        return asked.isPresent()
                ? asking.apply(new ServerLookout(asked.get()))
                : store.look(history -> asking.apply(new StoreLookout(history)));
    }

    /** {@return where it looks, as people know it} */
    String description() {
        return server().map(Server::name).orElseGet(store::description);
    }
}
