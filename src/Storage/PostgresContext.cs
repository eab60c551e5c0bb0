using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Storage;

/// <summary>The model on PostgreSQL.</summary>
public sealed class PostgresContext(DbContextOptions<PostgresContext> options) : ComeAboardContext(options);
