using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Storage.ValueConversion;

namespace ComeAboard.Storage;

/// <summary>The model on SQLite: instants are kept as milliseconds since 1970, which sort and compare.</summary>
public sealed class SqliteContext(DbContextOptions<SqliteContext> options) : ComeAboardContext(options)
{
    /// <inheritdoc/>
    protected override void ConfigureConventions(ModelConfigurationBuilder conventions)
    {
        base.ConfigureConventions(conventions);
        conventions.Properties<DateTimeOffset>().HaveConversion<MillisecondConverter>();
    }

    internal sealed class MillisecondConverter()
        : ValueConverter<DateTimeOffset, long>(
            instant => instant.ToUnixTimeMilliseconds(),
            milliseconds => DateTimeOffset.FromUnixTimeMilliseconds(milliseconds)
        );
}
