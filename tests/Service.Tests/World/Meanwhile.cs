using System.Data.Common;
using ComeAboard.Storage;

namespace ComeAboard.Service.Tests.World;

/// <summary>
/// Does something at the moment when a certain statement is about to be run for the first time, and lets it go on when
/// that is done – or after a while, where that has to wait for what the statement is part of.
/// </summary>
/// <param name="database">Where.</param>
/// <param name="part">A part of the statement, with names as they are without quotes.</param>
/// <param name="about">What it asks about.</param>
/// <param name="work">What is done meanwhile.</param>
public sealed class Meanwhile(Database database, string part, Guid about, Func<Task> work)
    : StatementWatch(database)
{
    private static readonly TimeSpan Longest = TimeSpan.FromSeconds(1.5);

    private volatile Task? _work;

    /// <summary>What was done meanwhile.</summary>
    /// <exception cref="InvalidOperationException">There was no such statement.</exception>
    public Task Work => _work ?? throw new InvalidOperationException("There was no such statement.");

    /// <inheritdoc/>
    protected override void Begins(DbCommand command)
    {
        if (_work is null && IsIt(command))
            Task.WhenAny(_work = Task.Run(work), Task.Delay(Longest)).Wait();
    }

    // Only one of the engines quotes names, and only one keeps ids as text.
    private bool IsIt(DbCommand command) =>
        command
            .CommandText.Replace("\"", "", StringComparison.Ordinal)
            .Contains(part, StringComparison.Ordinal)
        && command
            .Parameters.Cast<DbParameter>()
            .Any(one => about.ToString().Equals(one.Value?.ToString(), StringComparison.OrdinalIgnoreCase));
}
