/**
 * The store on relational databases: PostgreSQL for many instances, embedded H2 for a first try.
 *
 * <p>The only place that knows SQL. The generic statements serve every database; those on the hot path
 * have a PostgreSQL form of their own that handles a batch per statement.
 */
@NullMarked
package dev.brume.jdbc;

import org.jspecify.annotations.NullMarked;
