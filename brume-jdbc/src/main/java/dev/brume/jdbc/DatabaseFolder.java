package dev.brume.jdbc;

import java.io.IOException;
import java.nio.channels.FileChannel;
import java.nio.channels.FileLock;
import java.nio.channels.OverlappingFileLockException;
import java.nio.charset.StandardCharsets;
import java.nio.file.AtomicMoveNotSupportedException;
import java.nio.file.FileAlreadyExistsException;
import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.StandardOpenOption;
import java.nio.file.attribute.FileAttribute;
import java.nio.file.attribute.PosixFilePermission;
import java.nio.file.attribute.PosixFilePermissions;
import java.security.SecureRandom;
import java.util.EnumSet;
import java.util.HexFormat;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** The folder of an embedded database: it and its files belong to one user of the machine alone, from their first byte. */
final class DatabaseFolder {
    private static final Logger LOG = LoggerFactory.getLogger(DatabaseFolder.class);
    private static final String DATABASE = "brume.mv.db";
    private static final String SECRET = "secret";
    private static final String NUMBERS = "numbers";
    private static final String ENDPOINT = "endpoint";
    private static final Set<String> OWN_FILES =
            Set.of(DATABASE, SECRET, NUMBERS, ENDPOINT, "brume.trace.db", "brume.lock.db");
    private static final Set<PosixFilePermission> FOLDER = PosixFilePermissions.fromString("rwx------");
    private static final Set<PosixFilePermission> FILE = PosixFilePermissions.fromString("rw-------");

    /** Databases that this process owns: their files must not be opened a second time, since closing them would give up the lock. */
    private static final Set<Path> OWNED_HERE = ConcurrentHashMap.newKeySet();

    private final Path path;
    private final boolean posix;

    private DatabaseFolder(Path path) {
        this.path = path;
        this.posix = path.getFileSystem().supportedFileAttributeViews().contains("posix");
    }

    /** {@return whether a folder holds a database} */
    static boolean isIn(Path folder) {
        return Files.exists(folder.resolve(DATABASE));
    }

    /** Makes a folder that is not there, and takes away rights that others have on one that is. */
    static DatabaseFolder prepare(Path path) throws IOException {
        DatabaseFolder folder = new DatabaseFolder(path);
        if (path.getParent() != null) {
            Files.createDirectories(path.getParent());
        }
        try {
            Files.createDirectory(path, folder.only(FOLDER));
        } catch (FileAlreadyExistsException there) {
            if (!Files.isDirectory(path)) {
                throw there;
            }
            folder.checkOwner();
            folder.mend();
        }
        return new DatabaseFolder(path.toRealPath());
    }

    /** The owner of the folder decides what the database orders, so it must be this user. The superuser may have prepared it for another. */
    private void checkOwner() throws IOException {
        String own = ProcessHandle.current().info().user().orElse("");
        if (!posix || own.isEmpty()) {
            return;
        }
        String owner = Files.getOwner(path).getName();
        boolean isRoots = Files.getAttribute(path, "unix:uid").equals(0);
        if (!owner.equals(own) && !isRoots) {
            throw new IOException("it belongs to the user " + owner + ", and this process runs as " + own
                    + "; its owner decides what is run (run as " + owner + ", or take another folder)");
        }
    }

    private FileAttribute<?>[] only(Set<PosixFilePermission> permissions) {
        return posix
                ? new FileAttribute<?>[] {PosixFilePermissions.asFileAttribute(permissions)}
                : new FileAttribute<?>[0];
    }

    private void mend() throws IOException {
        if (!posix) {
            return;
        }
        for (String name : OWN_FILES) {
            if (Files.exists(path.resolve(name))) {
                restrict(path.resolve(name), FILE);
            }
        }
        restrict(path, holdsNothingElse() ? FOLDER : withoutOthersWriting(Files.getPosixFilePermissions(path)));
    }

    /** A folder that other things are kept in as well stays readable, if it was; who may write in it could put files in the place of ours. */
    private static Set<PosixFilePermission> withoutOthersWriting(Set<PosixFilePermission> permissions) {
        Set<PosixFilePermission> less = EnumSet.copyOf(permissions);
        less.remove(PosixFilePermission.GROUP_WRITE);
        less.remove(PosixFilePermission.OTHERS_WRITE);
        return less;
    }

    private boolean holdsNothingElse() throws IOException {
        try (Stream<Path> files = Files.list(path)) {
            Set<String> names = files.map(file -> file.getFileName().toString()).collect(Collectors.toSet());
            return names.contains(DATABASE) && OWN_FILES.containsAll(names);
        }
    }

    private static void restrict(Path file, Set<PosixFilePermission> most) throws IOException {
        Set<PosixFilePermission> had;
        try {
            had = Files.getPosixFilePermissions(file);
        } catch (NoSuchFileException gone) {
            return;
        }
        Set<PosixFilePermission> left = EnumSet.noneOf(PosixFilePermission.class);
        left.addAll(had);
        left.retainAll(most);
        if (left.equals(had)) {
            return;
        }
        try {
            Files.setPosixFilePermissions(file, left);
            LOG.warn(
                    "{} was open to other users of this machine ({}); it is {} now",
                    file,
                    PosixFilePermissions.toString(had),
                    PosixFilePermissions.toString(left));
        } catch (NoSuchFileException gone) {
            LOG.debug("{} has gone meanwhile", file, gone);
        } catch (IOException e) {
            LOG.warn(
                    "{} is open to other users of this machine ({}), and that cannot be changed: {}",
                    file,
                    PosixFilePermissions.toString(had),
                    e.toString());
        }
    }

    /** {@return where the database is, without the ending that H2 adds} */
    Path database() {
        return path.resolve("brume");
    }

    /** Makes the file, empty, before H2 does, which would let others read it. */
    void makeDatabase() throws IOException {
        try {
            Files.createFile(path.resolve(DATABASE), only(FILE));
        } catch (FileAlreadyExistsException there) {
            LOG.debug("{} is there", there.getFile());
        }
    }

    /** {@return what owner and visitors know and nobody else} */
    String secret() throws IOException {
        Path file = path.resolve(SECRET);
        if (!Files.exists(file)) {
            write(file, randomText().getBytes(StandardCharsets.US_ASCII), /* replace= */ false);
        }
        return Files.readString(file).strip();
    }

    /** {@return the file that numbers of runs and fences come from} */
    NumberFile numbers() throws IOException {
        Path file = path.resolve(NUMBERS);
        if (!Files.exists(file)) {
            write(file, NumberFile.empty(), /* replace= */ false);
        }
        return NumberFile.open(file);
    }

    /** {@return where visitors find the owner} */
    Path endpoint() {
        return path.resolve(ENDPOINT);
    }

    /** Says where visitors find the owner. */
    void writeEndpoint(String text) throws IOException {
        write(endpoint(), text.getBytes(StandardCharsets.US_ASCII), /* replace= */ true);
    }

    static String randomText() {
        byte[] bytes = new byte[16];
        new SecureRandom().nextBytes(bytes);
        return HexFormat.of().formatHex(bytes);
    }

    private void write(Path file, byte[] content, boolean replace) throws IOException {
        Path draft = Files.createTempFile(path, ".draft", "", only(FILE));
        try {
            Files.write(draft, content);
            if (replace) {
                move(draft, file);
            } else {
                Files.createLink(file, draft);
            }
        } catch (FileAlreadyExistsException raced) {
            // Another process was first; its text counts.
            return;
        } finally {
            Files.deleteIfExists(draft);
        }
    }

    private static void move(Path from, Path to) throws IOException {
        try {
            Files.move(from, to, StandardCopyOption.ATOMIC_MOVE, StandardCopyOption.REPLACE_EXISTING);
        } catch (AtomicMoveNotSupportedException e) {
            Files.move(from, to, StandardCopyOption.REPLACE_EXISTING);
        }
    }

    /** {@return whether this process owns the database, be it by another object} */
    boolean isOwnedHere() {
        return OWNED_HERE.contains(path);
    }

    void owned() {
        OWNED_HERE.add(path);
    }

    void left() {
        OWNED_HERE.remove(path);
    }

    /** {@return whether a process owns the database, by the lock on its file: nothing that a dead one left behind counts} */
    boolean isHeld() throws IOException {
        if (isOwnedHere()) {
            return true;
        }
        try (FileChannel file =
                        FileChannel.open(path.resolve(DATABASE), StandardOpenOption.READ, StandardOpenOption.WRITE);
                FileLock lock = file.tryLock()) {
            return lock == null;
        } catch (NoSuchFileException none) {
            return false;
        } catch (OverlappingFileLockException here) {
            return true;
        }
    }
}
