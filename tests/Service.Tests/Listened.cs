using ComeAboard.Service.Tests.World;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Npgsql;
using Xunit;

namespace ComeAboard.Service.Tests;

/// <summary>What nodes warn of is told apart: faults of the program, and what the world around them does.</summary>
public sealed class Listened
{
    [Fact]
    public void A_fault_of_the_program_is_told_from_a_database_or_a_server_that_is_away()
    {
        var (twice, away) = (new ArgumentException("twice"), new NpgsqlException("away"));
        foreach (
            var ours in new Exception[]
            {
                twice,
                new InvalidOperationException("retried", twice),
                new DbUpdateException("no such table", Refused("42P01")),
                new SqliteException("no such table", 1),
                new KeyNotFoundException(),
            }
        )
            Assert.True(Unforeseen.IsOfTheProgram(ours), ours.ToString());
        foreach (
            var theirs in new Exception[]
            {
                away,
                new InvalidOperationException("retried", away),
                Refused("57014"),
                new DbUpdateException("kept twice", Refused("23505")),
                new DbUpdateConcurrencyException(),
                new ObjectDisposedException("a node"),
                new InvalidOperationException("not configured", new HttpRequestException("refused")),
                new IOException(),
                new TaskCanceledException(),
                new TimeoutException(),
                new Workspaces.UnknownFateException(away),
            }
        )
            Assert.False(Unforeseen.IsOfTheProgram(theirs), theirs.ToString());

        static PostgresException Refused(string state) => new("refused", "ERROR", "ERROR", state);
    }
}
