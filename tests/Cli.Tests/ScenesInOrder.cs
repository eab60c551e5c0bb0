using ComeAboard.Cli.Tests;
using ComeAboard.Scenes;
using Xunit;

[assembly: TestCollectionOrderer(typeof(ScenesInOrder))]

namespace ComeAboard.Cli.Tests;

public sealed class ScenesInOrder()
    : LongestFirst(
        nameof(KilledMidway),
        nameof(KilledBetweenSystems),
        nameof(ForReal),
        nameof(KeptDemo),
        nameof(Stopping),
        nameof(BackingUp)
    );
