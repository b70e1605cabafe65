using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Falzkunst.Store.Migrations
{
    /// <inheritdoc />
    public partial class Bears : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<double>(
                name: "MinGapMm",
                table: "Stocks",
                type: "double precision",
                nullable: false,
                defaultValue: 0.5);

            migrationBuilder.AddColumn<double>(
                name: "MinWidthMm",
                table: "Stocks",
                type: "double precision",
                nullable: false,
                defaultValue: 0.8);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(
                name: "MinGapMm",
                table: "Stocks");

            migrationBuilder.DropColumn(
                name: "MinWidthMm",
                table: "Stocks");
        }
    }
}
