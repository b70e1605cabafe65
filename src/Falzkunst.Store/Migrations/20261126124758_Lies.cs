using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Falzkunst.Store.Migrations
{
    /// <inheritdoc />
    public partial class Lies : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<double[]>(
                name: "Lies",
                table: "Runs",
                type: "double precision[]",
                nullable: false,
                defaultValueSql: "'{}'");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(
                name: "Lies",
                table: "Runs");
        }
    }
}
