package dev.brume.tests;

import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.channels.FileLock;
import java.nio.file.Path;
import org.h2.store.fs.FileBase;
import org.h2.store.fs.FilePath;
import org.h2.store.fs.FilePathWrapper;

/** A file of H2's, {@code tapped:...}, that tells of each write to it while the writer still waits for it to return. */
public final class TappedFile extends FilePathWrapper {
    private static volatile Tap tap = file -> {};

    /** Is told of writes. */
    interface Tap {
        void written(Path file) throws IOException;
    }

    /** Makes {@code tapped:} known to H2, which else takes it for the name of a folder. */
    static void register() {
        FilePath.register(new TappedFile());
    }

    /** Tells someone from now on. */
    static void tell(Tap listener) {
        tap = listener;
    }

    static void tellNobody() {
        tap = file -> {};
    }

    @Override
    public String getScheme() {
        return "tapped";
    }

    @Override
    public FileChannel open(String mode) throws IOException {
        return new Channel(getBase().open(mode), Path.of(getBase().toString()));
    }

    private static final class Channel extends FileBase {
        private final FileChannel base;
        private final Path file;

        Channel(FileChannel base, Path file) {
            this.base = base;
            this.file = file;
        }

        @Override
        public int write(ByteBuffer source, long position) throws IOException {
            // One after the other, so that what is told of is the file as it was at one moment.
            synchronized (TappedFile.class) {
                int written = base.write(source, position);
                if (file.toString().endsWith(".mv.db")) {
                    tap.written(file);
                }
                return written;
            }
        }

        @Override
        public int write(ByteBuffer source) throws IOException {
            return base.write(source);
        }

        @Override
        public int read(ByteBuffer target) throws IOException {
            return base.read(target);
        }

        @Override
        public int read(ByteBuffer target, long position) throws IOException {
            return base.read(target, position);
        }

        @Override
        public long position() throws IOException {
            return base.position();
        }

        @Override
        public FileChannel position(long position) throws IOException {
            base.position(position);
            return this;
        }

        @Override
        public long size() throws IOException {
            return base.size();
        }

        @Override
        public FileChannel truncate(long size) throws IOException {
            base.truncate(size);
            return this;
        }

        @Override
        public void force(boolean metadata) throws IOException {
            base.force(metadata);
        }

        @Override
        public FileLock tryLock(long position, long size, boolean shared) throws IOException {
            return base.tryLock(position, size, shared);
        }

        @Override
        protected void implCloseChannel() throws IOException {
            base.close();
        }
    }
}
