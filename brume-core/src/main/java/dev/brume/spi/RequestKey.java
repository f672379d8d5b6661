package dev.brume.spi;

/**
 * What tells one request of a program from another: the key that it sends again when it does not know whether it was heard.
 *
 * @param principal who asks, at most 200 characters
 * @param namespace whose keys these are
 * @param operation what is asked for, such as {@code run-now}, at most 60 characters
 * @param key chosen by whoever asks, at most 200 characters
 * @since 0.1.0
 */
public record RequestKey(String principal, String namespace, String operation, String key) {}
