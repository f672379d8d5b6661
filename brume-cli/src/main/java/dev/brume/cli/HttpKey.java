package dev.brume.cli;

import dev.brume.internal.text.Secrets;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.FileAlreadyExistsException;
import java.nio.file.Files;
import java.nio.file.LinkOption;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.nio.file.attribute.FileAttribute;
import java.nio.file.attribute.PosixFilePermissions;
import java.util.Set;

/**
 * The key of one start, in a file that only its owner can read: whoever has it may look at everything.
 *
 * @param secret of this start
 * @param file where it is, as long as this start lasts
 */
record HttpKey(String secret, Path file) implements AutoCloseable {
    /** Writes a new key, in the place of one that an earlier start has left. */
    static HttpKey write(Path file) {
        Path whole = file.toAbsolutePath().normalize();
        String secret = Secrets.random();
        boolean posix = whole.getFileSystem().supportedFileAttributeViews().contains("posix");
        FileAttribute<?>[] owner = posix
                ? new FileAttribute<?>[] {
                    PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rw-------"))
                }
                : new FileAttribute<?>[0];
        try {
            Files.deleteIfExists(whole);
            // Made anew: a file of somebody else's, or a link to one, is never written to.
            try (var channel = Files.newByteChannel(
                    whole,
                    Set.of(StandardOpenOption.CREATE_NEW, StandardOpenOption.WRITE, LinkOption.NOFOLLOW_LINKS),
                    owner)) {
                channel.write(StandardCharsets.UTF_8.encode(secret + "\n"));
            }
            return new HttpKey(secret, whole);
        } catch (FileAlreadyExistsException e) {
            throw new UsageException("the key file " + whole + " came into being meanwhile; start again");
        } catch (IOException e) {
            throw UsageException.unwritable("--http-key", whole, e);
        }
    }

    /** Removes the file, unless another start has written its own there. */
    @Override
    public void close() {
        try {
            if (Files.exists(file) && Files.readString(file).strip().equals(secret)) {
                Files.delete(file);
            }
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** {@return without the secret} */
    @Override
    public String toString() {
        return "the key in " + file;
    }
}
