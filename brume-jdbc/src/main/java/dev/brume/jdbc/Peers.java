package dev.brume.jdbc;

import java.io.IOException;
import java.net.Socket;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Locale;
import java.util.Optional;

/** Tells, on Linux, whether a connection on the loopback address comes from another user of the machine. */
final class Peers {
    /** Where the kernel lists connections; sockets that speak both protocols are among those of the second. */
    private static final List<Path> CONNECTIONS = List.of(Path.of("/proc/net/tcp"), Path.of("/proc/net/tcp6"));

    private static final int LOCAL = 1;
    private static final int REMOTE = 2;
    private static final int USER = 7;

    private Peers() {}

    /** {@return whether it is known that the other end belongs to another user, who is not the superuser either} */
    static boolean isStranger(Socket socket) {
        try {
            int own = (Integer) Files.getAttribute(Path.of("/proc/self"), "unix:uid");
            for (Path list : CONNECTIONS) {
                Optional<Integer> user = Files.exists(list)
                        ? user(socket, Files.readAllLines(list, StandardCharsets.US_ASCII))
                        : Optional.empty();
                if (user.isPresent()) {
                    return user.get() != own && user.get() != 0;
                }
            }
            return false;
        } catch (IOException | UnsupportedOperationException | IllegalArgumentException elsewhere) {
            return false;
        }
    }

    /** The line of the other end has its addresses the other way round. */
    private static Optional<Integer> user(Socket socket, List<String> lines) {
        String local = String.format(Locale.ROOT, "0100007F:%04X", socket.getPort());
        String remote = String.format(Locale.ROOT, "0100007F:%04X", socket.getLocalPort());
        return lines.stream()
                .map(line -> line.strip().split("\\s+"))
                .filter(fields ->
                        fields.length > USER && fields[LOCAL].endsWith(local) && fields[REMOTE].endsWith(remote))
                .map(fields -> Integer.parseInt(fields[USER]))
                .findFirst();
    }
}
