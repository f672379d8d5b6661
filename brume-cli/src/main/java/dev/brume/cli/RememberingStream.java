package dev.brume.cli;

import java.io.FilterOutputStream;
import java.io.IOException;
import java.io.OutputStream;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Remembers why something could not be written; the printers on top of it only know that. */
final class RememberingStream extends FilterOutputStream {
    private volatile @Nullable IOException first;

    RememberingStream(OutputStream out) {
        super(out);
    }

    @Override
    public void write(byte[] bytes, int from, int length) throws IOException {
        try {
            out.write(bytes, from, length);
        } catch (IOException e) {
            remember(e);
            throw e;
        }
    }

    @Override
    public void write(int octet) throws IOException {
        write(new byte[] {(byte) octet}, 0, 1);
    }

    private void remember(IOException e) {
        if (first == null) {
            first = e;
        }
    }

    /** {@return why the first part was not written; empty if all was} */
    Optional<IOException> trouble() {
        return Optional.ofNullable(first);
    }
}
